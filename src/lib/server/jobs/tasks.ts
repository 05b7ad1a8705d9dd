import { runIntake } from '../intake/run';
import { emptySource } from '../intake/source';
import { runScan } from '../intake/look';
import { fetchAll } from '../intake/web';
import { comparePlaceJob } from '../places/compare';
import { runOperation } from '../ledger/run';
import { writeRecord, writeRecords } from '../records/write';
import { makePictures } from '../renditions/pictures';
import { makeProxy } from '../renditions/proxy';
import { makeTiles } from '../renditions/tiles';
import type { TaskName } from './queue';
import type { Task } from './run';

/** Every kind of background work and what does it. */
export const TASKS: Record<TaskName, Task> = {
  scan: runScan,
  intake: runIntake,
  'empty-source': emptySource,
  'compare-place': comparePlaceJob,
  fetch: fetchAll,
  pictures: makePictures,
  tiles: makeTiles,
  proxy: makeProxy,
  'write-record': writeRecord,
  'write-records': writeRecords,
  operation: runOperation,
};
