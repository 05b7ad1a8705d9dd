import { createHash } from 'node:crypto';
import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { StampEntry, StampLine } from '#core/lists/entries';
import { FIELD_KEYS, type FieldKey } from '#core/records/fields';
import { writtenAs } from '#core/records/written';
import { checkStamp, contributorLines, stampChange, type Stamped } from '#core/stamps/stamp';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { applyChange, changeEach, differences, readRecords } from '../records/records';
import { broaderOf, termRules } from '../terms/rules';
import { changeLists, entryOf, readEntries, refuseStale } from './journal';
import type { SeenIds } from '../sight/seen';

type Db = Kysely<Database>;

export type ListedStamp = StampEntry & { id: string };

/** Every stamp, by project and name. */
export const listedStamps = (db: Db): Promise<ListedStamp[]> =>
  db
    .selectFrom('stamp')
    .selectAll()
    .orderBy(sql`lower(project)`)
    .orderBy(sql`lower(name)`)
    .execute();

/** Make a stamp, change one, or with null take it off the list. @throws ArchiveError conflict, value-refused, not-found */
export const saveStamp = (
  db: Db,
  actorId: string | null,
  id: string | null,
  wish: StampEntry | null,
  seen?: StampEntry,
) => {
  const own = id ?? newId();
  if (wish) checkStamp(wish.lines);
  return changeLists(db, actorId, async (transaction) => {
    const before = id ? await entryOf(transaction, 'stamp', id) : null;
    refuseStale('stamp', before, seen);
    const verb = wish ? (before ? 'Changed' : 'Made') : 'Took off the list:';
    return {
      summary: `${verb} the stamp “${(wish ?? before)!.name}”`,
      entries: [{ list: 'stamp', id: own, before, after: wish }],
    };
  }).then((done) => ({ id: own, done }));
};

/** The lines of a stamp, or of a contributor who is put on items. @throws ArchiveError not-found */
export async function linesToPut(
  db: Db,
  { kind, id }: { kind: 'stamp' | 'contributor'; id: string },
): Promise<{ name: string; lines: StampLine[] }> {
  if (kind === 'stamp') return entryOf(db, 'stamp', id);
  const entry = await entryOf(db, 'contributor', id);
  return { name: entry.name, lines: contributorLines(entry) };
}

/** The lines of kept stamps, one after the other; those that are off the list are passed over. */
export async function linesOfStamps(db: Db, ids: readonly string[]): Promise<StampLine[][]> {
  if (ids.length === 0) return [];
  const found = await readEntries(db, 'stamp', ids);
  return ids.flatMap((id) => (found.has(id) ? [found.get(id)!.lines] : []));
}

/** @throws ArchiveError not-found */
export async function stampNamed(db: Db, name: string): Promise<ListedStamp> {
  const found = (await listedStamps(db)).filter(
    (one) =>
      one.name.toLowerCase() === name.toLowerCase() ||
      `${one.project}/${one.name}`.toLowerCase() === name.toLowerCase(),
  );
  if (found.length === 1) return found[0]!;
  throw new ArchiveError(
    'not-found',
    found.length === 0
      ? `There is no stamp “${name}”.`
      : `Several stamps are called “${name}”: say its project as well, “${found[0]!.project}/${name}”.`,
  );
}

/** What a stamp would change. */
export interface StampPreview {
  /** How many items it changes in each field. */
  fields: { field: FieldKey; changed: number }[];
  /** Values before and after, as far as they are told. */
  lines: { number: string; field: FieldKey; before: string; after: string }[];
  /** Items that change, of how many. */
  changed: number;
  items: number;
  /** Values that change: more than `lines` tells where there are many. */
  values: number;
  fingerprint: string;
}

/** More than anybody reads. */
const MOST_TOLD = 2000;

/** What pieces are filled from, in the order of the ids. */
async function stampedOf(
  db: Db,
  ids: SeenIds,
): Promise<(Stamped & { id: string; version: number })[]> {
  const [records, names] = await Promise.all([
    readRecords(db, ids),
    db
      .selectFrom('item as i')
      .innerJoin('file as f', 'f.itemId', 'i.id')
      .select(['i.id', 'i.originalName', 'i.camera', 'f.name'])
      .where('f.role', '=', 'original')
      .where('i.id', '=', sql<string>`any(${ids}::uuid[])`)
      .execute(),
  ]);
  const byId = new Map(records.map((record) => [record.id, record]));
  const named = new Map(names.map((row) => [row.id, row]));
  return ids.flatMap((id) => {
    const [record, row] = [byId.get(id), named.get(id)];
    if (!record || !row) return [];
    const { values, number, version } = record;
    return [
      {
        id,
        version,
        values,
        subject: {
          number,
          name: row.name,
          original: row.originalName,
          camera: row.camera,
          creator: values.creator.join(', '),
          title: values.title,
        },
      },
    ];
  });
}

/** A stamp, and the versions of what it was shown on. */
export const fingerprintOfStamp = (
  lines: readonly StampLine[],
  versions: Record<string, number>,
): string =>
  createHash('sha256')
    .update(JSON.stringify([lines, versions]))
    .digest('base64url');

/** What a stamp comes to on items: told, and as changes of each that changes. */
export async function planStamp(db: Db, ids: SeenIds, lines: readonly StampLine[]) {
  const items = await stampedOf(db, ids);
  const preview: StampPreview = {
    fields: [],
    lines: [],
    changed: 0,
    items: items.length,
    values: 0,
    fingerprint: '',
  };
  const counts = new Map<FieldKey, number>();
  const plain = items.map((item) => stampChange(lines, item));
  const brings = (await termRules(db)).broader;
  const above = await broaderOf(
    db,
    brings ? [...new Set(plain.flatMap(({ addTerms = [] }) => addTerms))] : [],
  );
  const groups = items.flatMap((item, at) => {
    const change = { ...plain[at] };
    if (change.addTerms)
      change.addTerms = [
        ...change.addTerms,
        ...change.addTerms.flatMap((term) => above.get(term) ?? []),
      ];
    const after = applyChange(item.values, change);
    const keys = differences(item.values, after);
    for (const key of keys) {
      counts.set(key, (counts.get(key) ?? 0) + 1);
      if (preview.lines.length < MOST_TOLD)
        preview.lines.push({
          number: item.subject.number,
          field: key,
          before: writtenAs(item.values[key]),
          after: writtenAs(after[key]),
        });
    }
    preview.values += keys.length;
    return keys.length > 0 ? [{ itemIds: [item.id], change }] : [];
  });
  preview.changed = groups.length;
  preview.fields = FIELD_KEYS.filter((key) => counts.has(key)).map((field) => ({
    field,
    changed: counts.get(field)!,
  }));
  const versions = Object.fromEntries(items.map(({ id, version }) => [id, version]));
  preview.fingerprint = fingerprintOfStamp(lines, versions);
  return { preview, groups, versions };
}

/** What stamp lines would change on items; nothing is changed. */
export const stampPreview = async (
  db: Db,
  ids: SeenIds,
  lines: readonly StampLine[],
): Promise<StampPreview> => (await planStamp(db, ids, lines)).preview;

export const changedSince = (): ArchiveError =>
  new ArchiveError(
    'conflict',
    'Something was changed since these values were shown; look at them again.',
  );

/**
 * Stamp items as it was shown: one operation of the ledger.
 * @returns the operation, null where nothing differs
 * @throws ArchiveError conflict where something changed since
 */
export async function stampItems(
  db: Db,
  actorId: string | null,
  ids: SeenIds,
  lines: readonly StampLine[],
  fingerprint?: string,
): Promise<{ operationId: string; changed: number } | null> {
  const { preview, groups, versions } = await planStamp(db, ids, lines);
  if (fingerprint !== undefined && fingerprint !== preview.fingerprint) throw changedSince();
  return changeEach(db, actorId, groups, { versions });
}
