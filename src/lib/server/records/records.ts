import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import {
  EMPTY_RECORD,
  FIELD_KEYS,
  type FieldKey,
  type RecordChange,
  type RecordValues,
  type ValueSource,
} from '#core/records/fields';
import { takenFromText, type Taken } from '#core/records/taken';
import { searchWords } from '#core/text/words';
import { FIRST_STAGES } from '#core/stages/stages';
import type { Database, Provenance } from '../db/schema';
import { newId } from '../house/ids';
import { enqueue } from '../jobs/queue';
import { notify } from '../live/notify';

type Db = Kysely<Database> | Transaction<Database>;

export interface ItemRecord {
  id: string;
  number: string;
  version: number;
  values: RecordValues;
  provenance: Provenance;
}

/** `2026-09-12T19:42:00` of the database → milliseconds always written. */
const wall = (text: string): string =>
  text.includes('.') ? text.padEnd(23, '0').slice(0, 23) : `${text}.000`;

/** A row's time taken. */
export function takenOfRow(row: {
  takenEdtf: string | null;
  takenFrom: string | null;
  takenTo: string | null;
  takenOffset: number | null;
}): Taken | null {
  if (!row.takenEdtf || !row.takenFrom || !row.takenTo) return null;
  return {
    edtf: row.takenEdtf,
    from: wall(row.takenFrom),
    to: wall(row.takenTo),
    offset: row.takenOffset,
  };
}

const takenColumns = (taken: Taken | null) => ({
  takenEdtf: taken?.edtf ?? null,
  takenFrom: taken?.from ?? null,
  takenTo: taken?.to ?? null,
  takenOffset: taken?.offset ?? null,
});

/** Records of items, in no order; deleted ones are left out. */
export async function readRecords(db: Db, itemIds: string[]): Promise<ItemRecord[]> {
  if (itemIds.length === 0) return [];
  const rows = await db
    .selectFrom('item as i')
    .leftJoin('stage as s', 's.id', 'i.stageId')
    .selectAll('i')
    .select('s.name as stage')
    .select(
      sql<string[]>`coalesce((select array_agg(t.label order by t.label) from item_term it
        join term t on t.id = it.term_id where it.item_id = i.id), '{}')`.as('terms'),
    )
    .where('i.id', '=', sql<string>`any(${itemIds}::uuid[])`)
    .where('i.deletedAt', 'is', null)
    .execute();
  return rows.map((row) => ({
    id: row.id,
    number: row.number,
    version: row.version,
    provenance: row.provenance,
    values: {
      title: row.title,
      caption: row.caption,
      creator: row.creator,
      creditLine: row.creditLine,
      copyrightNotice: row.copyrightNotice,
      terms: row.terms,
      rating: row.rating,
      stage: row.stage ?? '',
      taken: takenOfRow(row),
    },
  }));
}

/** Ids of terms by label, made where missing; `Kite > Box kite` makes Box kite narrower than Kite. */
export async function ensureTerms(db: Db, labels: string[]): Promise<Map<string, string>> {
  const ids = new Map<string, string>();
  for (const label of labels) {
    let broaderId: string | null = null;
    let id = '';
    for (const part of label
      .split('>')
      .map((text) => text.trim())
      .filter(Boolean)) {
      await db
        .insertInto('term')
        .values({ id: newId(), label: part, broaderId })
        .onConflict((conflict) => conflict.expression(sql`lower(label)`).doNothing())
        .execute();
      const row = await db
        .selectFrom('term')
        .select('id')
        .where(sql`lower(label)`, '=', part.toLowerCase())
        .executeTakeFirstOrThrow();
      id = row.id;
      broaderId = row.id;
    }
    if (id) ids.set(label, id);
  }
  return ids;
}

/** Id of the stage of a name; a name that a file brought is made a stage of the team. */
async function ensureStage(db: Db, name: string): Promise<string | null> {
  if (name === '') return null;
  const find = () =>
    db
      .selectFrom('stage')
      .select('id')
      .where(sql`lower(name)`, '=', name.toLowerCase())
      .executeTakeFirst();
  const found = await find();
  if (found) return found.id;
  const { count } = await db
    .selectFrom('stage')
    .select((select) => select.fn.countAll<number>().as('count'))
    .executeTakeFirstOrThrow();
  const id = newId();
  await db
    .insertInto('stage')
    .values({
      id,
      name,
      shape: 'bar',
      colour: 'pencil',
      key: `other-${id}`,
      position: Number(count),
    })
    .onConflict((conflict) => conflict.doNothing())
    .execute();
  return (await find())?.id ?? null;
}

/** The stages a new archive begins with. */
export async function addFirstStages(db: Kysely<Database>): Promise<void> {
  const rows = FIRST_STAGES.map((stage, position) => ({ id: newId(), ...stage, position }));
  const { count } = await db
    .selectFrom('stage')
    .select((select) => select.fn.countAll<number>().as('count'))
    .executeTakeFirstOrThrow();
  if (Number(count) === 0) await db.insertInto('stage').values(rows).execute();
}

/** Fill the words an item is found by, from its record, names and folders. */
export async function refreshWords(db: Db, itemIds: string[]): Promise<void> {
  if (itemIds.length === 0) return;
  const rows = await db
    .selectFrom('item as i')
    .leftJoin('file as f', (join) =>
      join.onRef('f.itemId', '=', 'i.id').on('f.role', '=', 'original'),
    )
    .leftJoin('folder as d', 'd.id', 'f.folderId')
    .leftJoin('place as p', 'p.id', 'f.placeId')
    .select([
      'i.id',
      'i.number',
      'i.title',
      'i.caption',
      'i.creator',
      'i.creditLine',
      'i.originalName',
      'i.camera',
    ])
    .select(['f.name', 'd.path as folder', 'p.name as place'])
    .select(
      sql<
        string[]
      >`coalesce((select array_agg(t.label) from item_term it join term t on t.id = it.term_id
        where it.item_id = i.id), '{}')`.as('terms'),
    )
    .where('i.id', '=', sql<string>`any(${itemIds}::uuid[])`)
    .execute();
  const texts = rows.map((row) =>
    searchWords(
      [
        row.number,
        row.title,
        row.caption,
        ...row.creator,
        row.creditLine,
        row.originalName,
        row.camera,
        row.name ?? '',
        row.folder ?? '',
        row.place ?? '',
        ...row.terms,
      ].join(' '),
    ).join(' '),
  );
  await sql`update item set words = array_to_tsvector(array_remove(string_to_array(found.words, ' '), ''))
    from (select unnest(${rows.map(({ id }) => id)}::uuid[]) as id, unnest(${texts}::text[]) as words) found
    where item.id = found.id`.execute(db);
}

/** The values a change leads to. @throws ArchiveError value-refused for a date that is none */
export function applyChange(values: RecordValues, change: RecordChange): RecordValues {
  const { addTerms = [], removeTerms = [], taken, ...plain } = change;
  const next: RecordValues = { ...values, ...plain };
  if (taken !== undefined) {
    next.taken = taken.trim() === '' ? null : takenFromText(taken);
    if (taken.trim() !== '' && !next.taken)
      throw new ArchiveError(
        'value-refused',
        `“${taken}” is no date; write 2026, 2026-09, 2026-09-12 or 2026-09-12 19:42.`,
      );
  }
  const removed = new Set(removeTerms.map((term) => term.toLowerCase()));
  const added = addTerms.map((term) => term.split('>').at(-1)!.trim()).filter(Boolean);
  const held = new Set<string>();
  next.terms = [...next.terms, ...added].filter((term) => {
    const key = term.toLowerCase();
    if (removed.has(key) || held.has(key)) return false;
    held.add(key);
    return true;
  });
  return next;
}

const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/** The fields in which two records differ. */
export function differences(before: RecordValues, after: RecordValues): FieldKey[] {
  return FIELD_KEYS.filter((key) => !isSame(before[key], after[key]));
}

/** Store values of one item: columns, terms, provenance, version. */
export async function storeValues(
  db: Db,
  itemId: string,
  values: RecordValues,
  changed: readonly FieldKey[],
  origin: { source: ValueSource; by: string | null; at: Date },
): Promise<void> {
  const mark = { source: origin.source, by: origin.by, at: origin.at.toISOString() };
  const provenance = Object.fromEntries(changed.map((key) => [key, mark]));
  await db
    .updateTable('item')
    .set({
      title: values.title,
      caption: values.caption,
      creator: values.creator,
      creditLine: values.creditLine,
      copyrightNotice: values.copyrightNotice,
      rating: values.rating,
      stageId: await ensureStage(db, values.stage),
      ...takenColumns(values.taken),
      version: sql<number>`version + 1`,
      changeNo: sql<number>`nextval('change_number')`,
      provenance: sql<string>`provenance || ${JSON.stringify(provenance)}::jsonb`,
    })
    .where('id', '=', itemId)
    .execute();
  if (!changed.includes('terms')) return;
  const terms = await ensureTerms(db, values.terms);
  await db.deleteFrom('itemTerm').where('itemId', '=', itemId).execute();
  if (terms.size > 0)
    await db
      .insertInto('itemTerm')
      .values([...new Set(terms.values())].map((termId) => ({ itemId, termId })))
      .execute();
}

/** Ask for the record to be written into the files of items. */
export async function enqueueWrites(
  db: Db,
  itemIds: string[],
  by: { actorId: string | null; operationId: string | null; title: string },
): Promise<void> {
  if (itemIds.length === 0) return;
  let parentId: string | null = null;
  if (itemIds.length > 1) {
    parentId = newId();
    await db
      .insertInto('job')
      .values({
        id: parentId,
        task: 'write-record',
        title: by.title,
        parentId: null,
        itemId: null,
        accessionId: null,
        operationId: by.operationId,
        state: 'done',
        createdBy: by.actorId,
        reason: null,
        finishedAt: new Date(),
      })
      .execute();
  }
  await enqueue(
    db,
    itemIds.map((itemId) => ({
      task: 'write-record',
      title: by.title,
      subject: itemId,
      parentId,
      itemId,
      operationId: by.operationId,
      createdBy: by.actorId,
    })),
  );
}

const summaryOf = (keys: Set<string>): string => {
  const labels: Record<string, string> = {
    creditLine: 'credit line',
    copyrightNotice: 'copyright notice',
  };
  return [...keys].map((key) => labels[key] ?? key).join(', ');
};

/**
 * Change the records of items in one transaction: noted in the ledger, shown at once, written by a job.
 * @param expected versions the change was made against; an item changed since is refused
 * @returns the operation, or null where nothing differs
 * @throws ArchiveError conflict, value-refused
 */
export async function changeRecords(
  db: Kysely<Database>,
  actorId: string | null,
  itemIds: string[],
  change: RecordChange,
  expected?: Record<string, number>,
): Promise<{ operationId: string; changed: number } | null> {
  return db.transaction().execute(async (transaction) => {
    await sql`select id from item where id = any(${itemIds}::uuid[]) order by id for update`.execute(
      transaction,
    );
    if (change.addTerms) await ensureTerms(transaction, change.addTerms);
    const steps: RecordStep[] = [];
    for (const record of await readRecords(transaction, itemIds)) {
      const wished = expected?.[record.id];
      if (wished !== undefined && wished !== record.version)
        throw new ArchiveError(
          'conflict',
          `${record.number} was changed by someone else; look at it again.`,
        );
      const after = applyChange(record.values, change);
      const keys = differences(record.values, after);
      if (keys.length > 0) steps.push({ itemId: record.id, before: record.values, after, keys });
    }
    if (steps.length === 0) return null;
    return applySteps(transaction, actorId, steps, null);
  });
}

export interface RecordStep {
  itemId: string;
  before: RecordValues;
  after: RecordValues;
  keys: FieldKey[];
}

const pick = (values: RecordValues, keys: FieldKey[]): Record<string, unknown> =>
  Object.fromEntries(keys.map((key) => [key, values[key]]));

/** Apply prepared record steps and note them as one operation. */
export async function applySteps(
  db: Transaction<Database>,
  actorId: string | null,
  steps: RecordStep[],
  undoes: string | null,
): Promise<{ operationId: string; changed: number }> {
  const operationId = newId();
  const now = new Date();
  const keys = new Set(steps.flatMap((step) => step.keys));
  const summary = `${undoes ? 'Gave back' : 'Set'} ${summaryOf(keys)}`;
  await db
    .insertInto('operation')
    .values({
      id: operationId,
      kind: 'record',
      summary,
      state: 'done',
      actorId,
      undoes,
      total: steps.length,
      finishedAt: now,
    })
    .execute();
  for (const [position, step] of steps.entries()) {
    await storeValues(db, step.itemId, step.after, step.keys, {
      source: 'person',
      by: actorId,
      at: now,
    });
    await db
      .insertInto('operationStep')
      .values({
        operationId,
        position,
        action: 'record',
        itemId: step.itemId,
        before: JSON.stringify(pick(step.before, step.keys)),
        after: JSON.stringify(pick(step.after, step.keys)),
        state: 'done',
      })
      .execute();
  }
  const ids = steps.map((step) => step.itemId);
  await refreshWords(db, ids);
  await enqueueWrites(db, ids, { actorId, operationId, title: 'Writing records into files' });
  await notify(db, { about: 'items', ids });
  return { operationId, changed: steps.length };
}

/** A whole record from the partial values of a step. */
export const overlay = (values: RecordValues, part: Record<string, unknown>): RecordValues => ({
  ...EMPTY_RECORD,
  ...values,
  ...part,
});
