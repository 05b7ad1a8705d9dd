import { sql } from 'kysely';
import { z } from 'zod';
import { LONE_SIDECAR } from '#core/intake/leftOut';
import { pairSidecars } from '#core/intake/sidecars';
import { isSidecar } from '#core/kinds/kinds';
import type { Source, SourceFacts } from '#core/intake/facts';
import { makeFolder, walk, type FoundFile } from '../files/disk';
import { isAtItsPath } from '../files/grounds';
import type { House } from '../house/house';
import { placeById } from '../places/places';
import { startAccession } from '../intake/plan/accession';
import { keptPlanSchema, type KeptPlan } from '../intake/plan/plans';

/** A file that has not been written to for this long has stopped growing. */
const STILL_MS = 3000;
const KEY = 'drop-zone';

const ruleSchema = keptPlanSchema.extend({ placeId: z.uuid() });

export const DROP_ZONE: Source = { kind: 'drop-zone', name: 'Drop zone' };

/** Files that have arrived whole, and how many still grow. */
export async function arrived(house: House): Promise<{ whole: FoundFile[]; growing: number }> {
  await makeFolder(house.folders.dropZone);
  if (!isAtItsPath(house, house.folders.dropZone)) return { whole: [], growing: 0 };
  const files = await walk(house.folders.dropZone);
  const still = BigInt(house.now().getTime() - STILL_MS) * 1_000_000n;
  const first = files.filter(({ modifiedNs }) => modifiedNs < still);
  // A copy keeps its original's time: only a size that stays tells that it is whole.
  const before = sizes.get(house) ?? new Map<string, { size: number; since: number }>();
  const now = Date.now();
  const after = new Map(
    files.map(({ path, size }) => {
      const known = before.get(path);
      return [path, known?.size === size ? known : { size, since: now }] as const;
    }),
  );
  sizes.set(house, after);
  const whole = first.filter(({ path }) => now - after.get(path)!.since >= STILL_MS);
  return { whole, growing: files.length - whole.length };
}
const sizes = new WeakMap<House, Map<string, { size: number; since: number }>>();

/** The plan by which the drop zone empties itself; null where people bring its files in by hand. */
export async function dropZoneRule(house: House): Promise<KeptPlan | null> {
  const row = await house.db
    .selectFrom('setting')
    .select('value')
    .where('key', '=', KEY)
    .executeTakeFirst();
  const parsed = ruleSchema.safeParse(row?.value);
  return parsed.success ? parsed.data : null;
}

/** Set or, with null, forget the drop zone's plan. */
export async function setDropZoneRule(house: House, rule: KeptPlan | null): Promise<void> {
  if (rule === null) {
    await house.db.deleteFrom('setting').where('key', '=', KEY).execute();
    return;
  }
  const value = JSON.stringify(ruleSchema.parse(rule));
  await house.db
    .insertInto('setting')
    .values({ key: KEY, value })
    .onConflict((conflict) => conflict.column('key').doUpdateSet({ value }))
    .execute();
}

const factsFrom = ({ size, modifiedNs, inode, changedNs }: FoundFile): SourceFacts => ({
  size,
  modifiedNs: String(modifiedNs),
  inode: String(inode),
  changedNs: String(changedNs),
});

const listed = (file: FoundFile) => ({
  path: file.path,
  size: file.size,
  facts: factsFrom(file),
});

/**
 * A file of the zone: another one of the same name and size is another file, also where it got the inode of the
 * one that was moved away.
 */
const keyOf = (path: string, facts: SourceFacts | null): string =>
  JSON.stringify([path, facts?.size, facts?.modifiedNs, facts?.inode, facts?.changedNs]);

/** Bring in what lies whole in the drop zone, once nothing more of it grows. */
export async function sweepDropZone(house: House): Promise<void> {
  const rule = await dropZoneRule(house);
  if (!rule?.placeId) return;
  const { whole, growing } = await arrived(house);
  if (whole.length === 0 || growing > 0) return;
  const open = await house.db
    .selectFrom('accession')
    .select('id')
    .where('root', '=', house.folders.dropZone)
    // One that is paused waits for somebody; what comes after it does not.
    .where('state', 'in', ['planned', 'running'])
    .executeTakeFirst();
  if (open) return;
  const tried = new Set(
    (
      await house.db
        .selectFrom('accessionEntry as e')
        .innerJoin('accession as a', 'a.id', 'e.accessionId')
        .select(['e.sourcePath', 'e.size', 'e.sourceFacts'])
        .where('a.root', '=', house.folders.dropZone)
        .where('e.sourcePath', '=', sql<string>`any(${whole.map(({ path }) => path)})`)
        .execute()
    ).map(({ sourcePath, sourceFacts }) => keyOf(sourcePath, sourceFacts)),
  );
  const isNew = (file: FoundFile): boolean => {
    const { changedNs, ...older } = factsFrom(file);
    return (
      !tried.has(keyOf(file.path, { ...older, changedNs })) && !tried.has(keyOf(file.path, older))
    );
  };
  const files = whole.filter((file) => !isSidecar(file.path) && isNew(file));
  if (files.length === 0) return;
  const lone = new Set(pairSidecars(whole.map(({ path }) => path)).lone);
  await startAccession(house, {
    title: 'Drop zone',
    source: DROP_ZONE,
    root: house.folders.dropZone,
    mode: rule.mode === 'in-place' ? 'copy' : rule.mode,
    place: await placeById(house.db, rule.placeId),
    plan: rule.plan,
    files: [
      ...files.map(listed),
      ...whole
        .filter((file) => lone.has(file.path) && isNew(file))
        .map((file) => ({ ...listed(file), leftOut: LONE_SIDECAR })),
    ],
    actorId: null,
    singleCopy: true,
  });
}
