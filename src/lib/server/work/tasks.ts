import { foldJob } from '../bursts/bursts';
import { runIntake } from '../intake/run/job';
import { emptySource } from '../intake/run/release';
import { tidyParcels } from '../intake/report/waiting';
import { runScan } from '../intake/look/look';
import { fetchAll } from '../intake/sources/web';
import { comparePlaceJob } from '../watching/compare';
import { readAgain } from '../watching/readAgain';
import { runDeed } from '../deeds/large';
import { runOperation } from '../ledger/carryOut';
import { runStamping } from '../lists/stamping';
import { findWords } from '../records/findWords';
import { writeRecord, writeRecords } from '../records/write';
import { pictureEnds } from '../renditions/ends';
import { readFilm } from '../renditions/film';
import { makePictures } from '../renditions/pictures';
import { makeProxy } from '../renditions/proxy';
import { remakePictures } from '../renditions/remake';
import { makeTiles } from '../renditions/tiles';
import type { TaskName } from '../jobs/tasks';
import { takeMarkers } from '../spans/markers';
import type { Task } from '../jobs/attempt';

/** What does each kind of background work. */
export const RUNS: Record<TaskName, Task> = {
  scan: async (house, job, progress) => {
    await runScan(house, job, progress);
    await tidyParcels(house);
  },
  intake: runIntake,
  'empty-source': emptySource,
  'compare-place': comparePlaceJob,
  fetch: fetchAll,
  pictures: makePictures,
  tiles: makeTiles,
  proxy: makeProxy,
  film: readFilm,
  ends: pictureEnds,
  markers: takeMarkers,
  remake: remakePictures,
  bursts: foldJob,
  'write-record': writeRecord,
  'write-records': writeRecords,
  'find-words': findWords,
  operation: runOperation,
  stamp: runStamping,
  deed: runDeed,
  'read-again': readAgain,
};
