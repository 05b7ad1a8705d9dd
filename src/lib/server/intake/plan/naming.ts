import { planTargets, type Target } from '#core/intake/plan';
import { nameKey } from '#core/naming/names';
import type { NameSubject } from '#core/naming/piece';
import { parseWallClock, precisionOf, type Taken } from '#core/records/taken';
import { namesIn } from '../../files/disk';
import { joinPath, splitPath } from '../../files/paths';
import type { House } from '../../house/house';
import { applyChange } from '../../records/records';
import { clockOf } from './clocks';
import { keepCounters, readCounters } from './counters';
import type { Entry, Intake } from './entries';

/** What the patterns are filled from. */
export function subjectOf(file: {
  path: string;
  taken: Pick<Taken, 'from' | 'to' | 'edtf'> | null;
  precision?: NameSubject['precision'] | null;
  camera: string;
  creator: string;
  title: string;
}): NameSubject {
  const { name } = splitPath(file.path);
  return {
    name,
    original: name,
    taken: file.taken ? parseWallClock(file.taken.from) : null,
    precision: file.precision ?? (file.taken ? precisionOf(file.taken as Taken) : 'span'),
    folder: '',
    values: { camera: file.camera, creator: file.creator, title: file.title },
  };
}

/** Names that are taken in the folders a plan leads to. */
export async function heldNames(
  root: string,
  patterns: { filing: string; naming: string },
  subjects: NameSubject[],
): Promise<Map<string, Set<string>>> {
  const held = new Map<string, Set<string>>();
  for (const { folder, problem } of planTargets(patterns, subjects, () => new Set()))
    if (problem === null && !held.has(folder))
      held.set(folder, new Set((await namesIn(joinPath(root, folder))).map(nameKey)));
  return held;
}

/** Give every entry its folder and name, once, in order: counters must not depend on when a kill came. */
export async function nameAll(house: House, intake: Intake, entries: Entry[]): Promise<void> {
  const ready = entries.filter((entry) => entry.facts !== null && entry.state !== 'failed');
  // Retried files keep their names; the others are named all at once or not at all.
  const unnamed = ready.filter((entry) => entry.name === null);
  if (unnamed.length === 0) return;
  const subjects = unnamed.map((entry) => {
    const { technical } = entry.facts!;
    // What a sheet's row says of it goes before what the file says.
    const record = applyChange(entry.facts!.record, entry.given ?? {});
    return subjectOf({
      // A bundle is named by its folder; its files keep their names, for they refer to each other.
      path: entry.bundleFolder === null ? entry.sourcePath : entry.bundleFolder || 'bundle',
      taken:
        (entry.given?.taken ? null : clockOf(intake.plan, entry.facts!)?.taken) ?? record.taken,
      camera: technical.camera ?? '',
      creator: record.creator[0] ?? '',
      title: record.title,
    });
  });
  const held = await heldNames(intake.place.root, intake.plan, subjects);
  const { naming, countersGoOn } = intake.plan;
  await house.db.transaction().execute(async (db) => {
    const counters = countersGoOn ? await readCounters(db, intake.place.id, naming) : new Map();
    const targets = planTargets(
      intake.plan,
      subjects,
      (folder) => held.get(folder) ?? new Set(),
      counters,
    );
    for (const [index, entry] of unnamed.entries()) {
      const values = decided(targets[index]!, entry);
      Object.assign(entry, values);
      await db.updateTable('accessionEntry').set(values).where('id', '=', entry.id).execute();
    }
    await keepCounters(db, intake.place.id, naming, counters);
  });
}

const decided = ({ folder, name, problem }: Target, { bundleFolder, sourcePath }: Entry) =>
  problem === null
    ? bundleFolder === null
      ? { folder, name }
      : {
          folder: joinPath(
            folder,
            name,
            splitPath(sourcePath.slice(bundleFolder ? bundleFolder.length + 1 : 0)).folder,
          ),
          name: splitPath(sourcePath).name,
        }
    : { state: 'failed' as const, reason: `“${name}”: ${problem}.` };
