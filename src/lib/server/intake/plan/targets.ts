import type { Kysely } from 'kysely';
import {
  planSchema,
  planTargets,
  type Plan,
  type PlanPreview,
  type PlanWish,
} from '#core/intake/plan';
import { parseWallClock, shiftTaken, takenAt } from '#core/records/taken';
import type { Database } from '../../db/schema';
import { splitPath } from '../../files/paths';
import { placeById } from '../../places/places';
import { readCounters } from './counters';
import { heldNames, subjectOf } from './naming';
import { readScan, type ScanFile } from '../look/scan';

/** A moment as the corrected clock of its camera would have told it. */
function corrected(file: ScanFile, plan: Plan): string | null {
  const shift = plan.clocks[file.camera];
  const time = file.takenPrecision === 'moment' && file.takenFrom && parseWallClock(file.takenFrom);
  return shift && time ? (shiftTaken(takenAt(time), shift)?.from ?? null) : null;
}

/** Folders and names a plan gives the chosen files of a scan; nothing is written. */
export async function previewPlan(
  db: Kysely<Database>,
  scanId: string,
  positions: number[],
  placeId: string,
  wish: PlanWish,
): Promise<PlanPreview> {
  const plan = planSchema.parse(wish);
  const scan = await readScan(db, scanId);
  const place = await placeById(db, placeId);
  const wished = new Set(positions);
  const files = scan.files.filter((file) => wished.has(file.position));
  const clocks = files.map((file) => corrected(file, plan));
  const subjects = files.map((file, index) => {
    const from = clocks[index] ?? file.takenFrom;
    return subjectOf({
      ...file,
      taken: from ? { from, to: from, edtf: '' } : null,
      precision: (file.takenPrecision as 'moment' | null) ?? 'span',
    });
  });
  const held = await heldNames(place.root, plan, subjects);
  const counters = plan.countersGoOn
    ? await readCounters(db, placeId, plan.naming)
    : new Map<string, number>();
  const standing = counters.size;
  const targets = planTargets(plan, subjects, (folder) => held.get(folder) ?? new Set(), counters);
  const counts = new Map<string, number>();
  for (const { folder } of targets) counts.set(folder, (counts.get(folder) ?? 0) + 1);
  return {
    lines: files.map((file, index) => ({
      position: file.position,
      from: splitPath(file.path).name,
      ...targets[index]!,
      clock: clocks[index] ?? null,
    })),
    folders: [...counts].map(([path, count]) => ({
      path,
      count,
      joins: held.get(path)?.size ?? 0,
    })),
    problems: targets.filter((target) => target.problem !== null).length,
    bytes: files.reduce((sum, file) => sum + file.size, 0),
    counters: standing,
  };
}
