import { FROM_RECORD } from '#core/live/messages';
import { isDeepStrictEqual } from 'node:util';
import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import { fieldsThatCan } from '#core/fields/registry';
import { positionText } from '#core/geo/position';
import {
  EMPTY_RECORD,
  FIELD_KEYS,
  FIELDS,
  inOrder,
  LANGUAGES,
  LIST_KEYS,
  type FieldKey,
  type RecordChange,
  type RecordValues,
} from '#core/records/fields';
import { fieldWords } from '#core/records/takeOver';
import { takenFromText, type Taken } from '#core/records/taken';
import { searchWords } from '#core/text/words';
import type { Database } from '../db/schema';
import type { Provenance } from '#core/records/provenance';
import { newId } from '../house/ids';
import { enqueue } from '../jobs/queue';
import { wholly } from '../db/wholly';
import { howFar } from '../jobs/reporting';
import { notifyItems } from '../live/notify';
import { givenTerms } from '../terms/rules';
import { plainOf, setAlike, type Plain } from './alike';
import { PLAIN } from './columns';
import { lockRecords, storeValues } from './store';
import { asSeen, filedOf, isHeld, type SeenIds } from '../sight/seen';

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

/** Records of items, in no order; deleted ones are left out. */
export async function readRecords(db: Db, itemIds: string[]): Promise<ItemRecord[]> {
  if (itemIds.length === 0) return [];
  const rows = await db
    .selectFrom('item as i')
    .leftJoin('stage as s', 's.id', 'i.stageId')
    .select(['i.id', 'i.number', 'i.version', 'i.provenance', 'i.record', 's.name as stage'])
    .select([...PLAIN].map(([key, { name }]) => sql.ref(`i.${name}`).as(key)))
    .select([
      'i.takenEdtf',
      'i.takenFrom',
      'i.takenTo',
      'i.takenOffset',
      'i.latitude',
      'i.longitude',
    ])
    .select(
      sql<string[]>`coalesce((select array_agg(t.label order by t.label) from item_term it
        join term t on t.id = it.term_id where it.item_id = i.id), '{}')`.as('terms'),
    )
    .where('i.id', '=', sql<string>`any(${itemIds}::uuid[])`)
    .where(isHeld('i'))
    .execute();
  return rows.map((row) => ({
    id: row.id,
    number: row.number,
    version: row.version,
    provenance: row.provenance,
    values: {
      ...EMPTY_RECORD,
      ...row.record,
      ...Object.fromEntries([...PLAIN].map(([key]) => [key, row[key]])),
      terms: row.terms,
      stage: row.stage ?? '',
      taken: takenOfRow(row),
      position: positionText(row.latitude, row.longitude),
    },
  }));
}

/** Fields of the record that are searched by word and have no column of their own. */
const WORDED = fieldsThatCan('words').filter(
  ({ store }) => 'json' in store && store.json === 'record',
);

/** A text, a list of them, or one in several languages. */
const textsIn = (value: unknown): string[] =>
  typeof value === 'string' ? [value] : Object.values((value ?? {}) as Record<string, string>);

/** Fill the words an item is found by, from its record, names, folders, and terms with their broader ones and other labels. */
export async function refreshWords(db: Db, itemIds: string[]): Promise<void> {
  if (itemIds.length === 0) return;
  const { rows } = await sql<{
    id: string;
    texts: (string | null)[];
    record: Record<string, unknown>;
  }>`
    with recursive wished as (select unnest(${itemIds}::uuid[]) as id),
    given as (
      select it.item_id, it.term_id as id from item_term it join wished w on w.id = it.item_id
      union select g.item_id, b.broader_id from given g join term_broader b on b.term_id = g.id
    ), labels as (
      select g.item_id, array_agg(named.label) as labels from given g join (
        select id, label from term union all select term_id, label from term_label
      ) named on named.id = g.id group by 1)
    select i.id, i.record, array[i.number, i.title, i.caption, i.credit_line, i.original_name, i.camera,
        f.name, d.path, p.name] || i.creator || coalesce(l.labels, '{}') as texts
    from wished w join item i on i.id = w.id
      left join file f on f.item_id = i.id and f.role = 'original'
      left join folder d on d.id = f.folder_id left join place p on p.id = f.place_id
      left join labels l on l.item_id = i.id`.execute(db);
  const texts = rows.map(({ texts: own, record }) =>
    searchWords(
      [...own, ...WORDED.flatMap(({ key }) => textsIn(record[key]))].filter(Boolean).join(' '),
    ).join(' '),
  );
  await sql`insert into item_words (item_id, words)
    select id, array_to_tsvector(array_remove(string_to_array(text, ' '), ''))
    from unnest(${rows.map(({ id }) => id)}::uuid[], ${texts}::text[]) as found (id, text)
    on conflict (item_id) do update set words = excluded.words
      where item_words.words is distinct from excluded.words`.execute(db);
}

/** The values a change leads to; `addTerms` are labels. @throws ArchiveError value-refused for a date that is none */
export function applyChange(values: RecordValues, change: RecordChange): RecordValues {
  const { addTerms = [], removeTerms = [], add = {}, remove = {}, taken, ...plain } = change;
  const next: RecordValues = { ...values, ...plain };
  for (const key of LIST_KEYS) {
    const gone = remove[key] ?? [];
    if (add[key] || gone.length > 0)
      next[key] = [...new Set([...next[key], ...(add[key] ?? [])])].filter(
        (element) => element !== '' && !gone.includes(element),
      );
  }
  if (taken !== undefined) {
    next.taken = taken.trim() === '' ? null : takenFromText(taken);
    if (taken.trim() !== '' && !next.taken)
      throw new ArchiveError(
        'value-refused',
        `“${taken}” is no date; write 2026, 2026-09, 2026-09-12 or 2026-09-12 19:42.`,
      );
  }
  for (const { text, others } of LANGUAGES) {
    next[others] = inOrder(next[others]);
    const [first] = Object.values(next[others]);
    if (next[text] !== '' || first === undefined) continue;
    // Other languages say the same as a text: without it they go with it, or one of them is it.
    if (values[text] !== '') next[others] = {};
    else next[text] = first;
  }
  const removed = new Set(removeTerms.map((term) => term.toLowerCase()));
  const held = new Set<string>();
  next.terms = [...next.terms, ...addTerms].filter((term) => {
    const key = term.toLowerCase();
    if (removed.has(key) || held.has(key)) return false;
    held.add(key);
    return true;
  });
  return next;
}

/** The fields in which two records differ. */
export function differences(before: RecordValues, after: RecordValues): FieldKey[] {
  return FIELD_KEYS.filter(
    (key) => before[key] !== after[key] && !isDeepStrictEqual(before[key], after[key]),
  );
}

/** Ask for the records of items to be written into their files: one job, however many. */
export async function enqueueWrites(
  db: Db,
  ids: string[],
  by: { actorId: string | null; operationId: string | null; title: string },
): Promise<void> {
  // Of what stands on another's file nothing is written.
  const itemIds = await filedOf(db, asSeen(ids));
  if (itemIds.length === 0) return;
  const { actorId: createdBy, operationId, title } = by;
  const common = { title, operationId, createdBy };
  await enqueue(
    db,
    itemIds.length === 1 || !operationId
      ? itemIds.map((id) => ({ ...common, task: 'write-record', subject: id, itemId: id }))
      : [
          {
            ...common,
            task: 'write-records',
            subject: operationId,
            total: itemIds.length,
            unit: 'files',
          },
        ],
  );
}

const summaryOf = (keys: Set<FieldKey>): string => fieldWords([...keys]);

/** What a change was made against. */
export interface Seen {
  /** By item; one of another version was changed since. */
  versions: Record<string, number>;
  /**
   * The values seen of the fields that are changed, as far as all items shared one: others' changes of other fields
   * are no clash then. Without it any change of others is one.
   */
  base?: Partial<RecordValues> | undefined;
}

/** What is changed as a whole; elements added and removed go together with whatever others did. */
const wholeKeys = ({ addTerms, removeTerms, add, remove, ...plain }: RecordChange): FieldKey[] => (
  void addTerms,
  void removeTerms,
  void add,
  void remove,
  Object.keys(plain) as FieldKey[]
);

/** @throws ArchiveError conflict where somebody changed the same field since it was seen, and how it is now */
async function refuseClash(
  db: Db,
  record: ItemRecord,
  change: RecordChange,
  after: RecordValues,
  { versions, base }: Seen,
): Promise<void> {
  const version = versions[record.id];
  if (version === undefined || version === record.version) return;
  const field = (base ? wholeKeys(change) : FIELD_KEYS).find(
    (key) =>
      !isDeepStrictEqual(record.values[key], after[key]) &&
      !(base && key in base && isDeepStrictEqual(record.values[key], base[key])),
  );
  if (!field) return;
  const by = record.provenance[field]?.by;
  const person = by
    ? await db.selectFrom('person').select('name').where('id', '=', by).executeTakeFirst()
    : undefined;
  throw new ArchiveError(
    'conflict',
    `${FIELDS[field].label} of ${record.number} was changed by ${person?.name ?? 'someone else'} meanwhile; look at it again.`,
    { field, number: record.number, theirs: record.values[field] },
  );
}

/**
 * Change the records of items in one transaction: noted in the ledger, shown at once, written by a job.
 * @returns the operation, or null where nothing differs
 * @throws ArchiveError conflict, value-refused
 */
export async function changeRecords(
  db: Kysely<Database>,
  actorId: string | null,
  itemIds: SeenIds,
  change: RecordChange,
  seen?: Seen,
): Promise<{ operationId: string; changed: number } | null> {
  const plain = plainOf(change);
  const isUnseen = !seen || Object.keys(seen.versions).length === 0;
  return plain && isUnseen
    ? changeAlike(db, actorId, [...new Set(itemIds)], plain)
    : changeEach(db, actorId, [{ itemIds, change }], seen);
}

/** Items given the same in one statement; between two of them it is told how far it is, and a wish to stop is heeded. */
const ALIKE_AT_ONCE = 2000;

/** As `changeRecords`, where all get the same plain values and nobody else's change is asked about. */
const changeAlike = (
  db: Kysely<Database>,
  actorId: string | null,
  itemIds: string[],
  plain: Plain,
) =>
  wholly(db, async (transaction) => {
    const operationId = newId();
    const about = {
      id: operationId,
      kind: 'record',
      state: 'done',
      actorId,
      undoes: null,
    } as const;
    await transaction
      .insertInto('operation')
      .values({ ...about, summary: '', total: 0, finishedAt: new Date() })
      .execute();
    // Held whole from the beginning: two who change the same in another order do not wait for each other for ever.
    await lockRecords(transaction, itemIds);
    const changed: string[] = [];
    const keys = new Set<FieldKey>();
    for (let from = 0; from < itemIds.length; from += ALIKE_AT_ONCE) {
      await howFar(from, itemIds.length);
      const some = itemIds.slice(from, from + ALIKE_AT_ONCE);
      const noted = { operationId, from: changed.length, by: actorId };
      const set = await setAlike(transaction, some, plain, noted);
      changed.push(...set.ids);
      for (const key of set.keys) keys.add(key);
    }
    if (changed.length === 0) {
      await transaction.deleteFrom('operation').where('id', '=', operationId).execute();
      return null;
    }
    await transaction
      .updateTable('operation')
      .set({
        summary: `Set ${fieldWords(FIELD_KEYS.filter((key) => keys.has(key)))}`,
        total: changed.length,
      })
      .where('id', '=', operationId)
      .execute();
    await followItems(transaction, changed, { actorId, operationId }, keys);
    return { operationId, changed: changed.length };
  });

/** As `changeRecords`, with another change for each group of items; an item is in one group at most. */
export async function changeEach(
  db: Kysely<Database>,
  actorId: string | null,
  groups: { itemIds: string[]; change: RecordChange }[],
  seen?: Seen,
): Promise<{ operationId: string; changed: number } | null> {
  return wholly(db, async (transaction) => {
    const steps = await stepsFor(transaction, groups, seen);
    return steps.length === 0 ? null : applySteps(transaction, actorId, steps, null);
  });
}

/** What changes of groups of items come to, their records held until the transaction ends. @throws ArchiveError conflict */
export async function stepsFor(
  db: Transaction<Database>,
  groups: { itemIds: string[]; change: RecordChange }[],
  seen?: Seen,
): Promise<RecordStep[]> {
  const ids = groups.flatMap(({ itemIds }) => itemIds);
  await lockRecords(db, ids);
  const steps: RecordStep[] = [];
  const byId = new Map((await readRecords(db, ids)).map((one) => [one.id, one]));
  // Of a stamp on thousands each item is a group, and most are given the same terms.
  const given = new Map<string, Promise<string[]>>();
  const termsOf = (terms: string[]): Promise<string[]> => {
    const key = JSON.stringify(terms);
    const known = given.get(key) ?? givenTerms(db, terms);
    given.set(key, known);
    return known;
  };
  for (const { itemIds, change } of groups) {
    const wished = change.addTerms
      ? { ...change, addTerms: await termsOf(change.addTerms) }
      : change;
    for (const id of itemIds) {
      const record = byId.get(id);
      if (!record) continue;
      const after = applyChange(record.values, wished);
      if (seen) await refuseClash(db, record, wished, after, seen);
      const keys = differences(record.values, after);
      if (keys.length > 0) steps.push({ itemId: record.id, before: record.values, after, keys });
    }
  }
  return steps;
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
  const keys = new Set(steps.flatMap((step) => step.keys));
  await db
    .insertInto('operation')
    .values({
      id: operationId,
      kind: 'record',
      summary: `${undoes ? 'Gave back' : 'Set'} ${summaryOf(keys)}`,
      state: 'done',
      actorId,
      undoes,
      total: steps.length,
      finishedAt: new Date(),
    })
    .execute();
  await storeSteps(db, actorId, steps, { operationId, from: 0 });
  await followItems(
    db,
    steps.map((step) => step.itemId),
    { actorId, operationId },
    keys,
  );
  return { operationId, changed: steps.length };
}

/** Of so many items words are found at once; of more a job follows: nobody waits for it. */
const FOUND_AT_ONCE = 500;
/** Items that one statement stores. */
const AT_ONCE = 2000;

/** Store what record steps lead to, and note them in an operation from some position on. */
export async function storeSteps(
  db: Transaction<Database>,
  actorId: string | null,
  steps: RecordStep[],
  { operationId, from }: { operationId: string; from: number },
): Promise<void> {
  for (let done = 0; done < steps.length; done += AT_ONCE) {
    await howFar(done, steps.length);
    await storeSome(db, actorId, steps.slice(done, done + AT_ONCE), {
      operationId,
      from: from + done,
    });
  }
}

async function storeSome(
  db: Transaction<Database>,
  actorId: string | null,
  steps: RecordStep[],
  { operationId, from }: { operationId: string; from: number },
): Promise<void> {
  await storeValues(
    db,
    steps.map(({ itemId, after, keys: changed }) => ({ itemId, values: after, changed })),
    { source: 'person', by: actorId, at: new Date() },
  );
  const rows = steps.map((step, index) => ({
    position: from + index,
    item: step.itemId,
    before: pick(step.before, step.keys),
    after: pick(step.after, step.keys),
  }));
  await sql`insert into operation_step (operation_id, position, action, item_id, before, after, state)
    select ${operationId}::uuid, position, 'record', item, before, after, 'done'
    from json_to_recordset(${JSON.stringify(rows)}::json)
      as row(position integer, item uuid, before jsonb, after jsonb)`.execute(db);
}

/** Words of items an operation has steps of: those of a few at once, those of many by a job. */
export async function followWords(
  db: Transaction<Database>,
  ids: string[],
  { actorId, operationId }: { actorId: string | null; operationId: string },
): Promise<void> {
  if (ids.length <= FOUND_AT_ONCE) await refreshWords(db, ids);
  else
    await enqueue(db, [
      {
        task: 'find-words',
        title: 'Making words found',
        subject: operationId,
        operationId,
        createdBy: actorId,
        total: ids.length,
        unit: 'items',
      },
    ]);
}

/** What follows where fields of records changed: the words they are found by, their files, open windows. */
export async function followItems(
  db: Transaction<Database>,
  ids: string[],
  by: { actorId: string | null; operationId: string },
  fields: Iterable<string>,
): Promise<void> {
  const { actorId, operationId } = by;
  await followWords(db, ids, by);
  await enqueueWrites(db, ids, { actorId, operationId, title: 'Writing records into files' });
  await notifyItems(db, ids, [...fields, ...FROM_RECORD], operationId);
}

/** A whole record from the partial values of a step. */
export const overlay = (values: RecordValues, part: Record<string, unknown>): RecordValues => ({
  ...EMPTY_RECORD,
  ...values,
  ...part,
});
