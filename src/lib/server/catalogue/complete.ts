import { sql, type Kysely } from 'kysely';
import type { Completion } from '#core/catalogue/tile';
import type { RefKind } from '#core/fields/field';
import { ALL_FIELDS, fieldsThatCan } from '#core/fields/registry';
import type { Viewer } from '#core/people/viewer';
import { readSentence } from '#core/query/english';
import { formatQuery } from '#core/query/grammar';
import { nodeWords } from '#core/query/sentence';
import { EVERYTHING, is, refTo, type Node, type Query } from '#core/query/tree';
import { likeText } from '#core/text/like';
import type { Database } from '../db/schema';
import { dictionaryFor, labelsOf } from '../query/names';
import { countOf } from './find';

interface Found {
  kind: RefKind;
  id: string;
  label: string;
}
const ABOUT: Record<RefKind, string> = {
  term: 'about',
  folder: 'in',
  stage: 'at stage',
  collection: 'collected in',
  accession: 'accession',
  person: 'brought in by',
};

/** Names that begin with some letters go before those that hold them. */
async function named(db: Kysely<Database>, text: string): Promise<Found[]> {
  const like = `%${likeText(text.toLowerCase())}%`;
  const begins = `${likeText(text.toLowerCase())}%`;
  const { rows } = await sql<Found>`
    (select 'term' as kind, t.id, t.label from term t where lower(t.label) like ${like}
      order by lower(t.label) like ${begins} desc, (select count(*) from item_term it where it.term_id = t.id) desc, 3 limit 6)
    union all (select 'folder', d.id, case when d.path = '' then p.name else p.name || '/' || d.path end
      from folder d join place p on p.id = d.place_id
      where lower(case when d.path = '' then p.name else d.name end) like ${like} order by d.path, 3 limit 5)
    union all (select 'stage', s.id, s.name from stage s where lower(s.name) like ${like} order by 3 limit 3)
    union all (select 'collection', c.id, c.name from collection c
      where c.deleted_at is null and lower(c.name) like ${like} order by 3 limit 4)
    union all (select 'accession', a.id, a.title from accession a where lower(a.title) like ${like}
      order by a.created_at desc limit 2)
    union all (select 'person', p.id, p.name from person p where lower(p.name) like ${like} order by 3 limit 2)`.execute(
    db,
  );
  return rows;
}

const nodeOf = ({ kind, id }: Found): Node => {
  if (kind === 'folder') return { field: 'folder', test: 'in', values: [refTo(id)] };
  if (kind === 'term') return is('terms', refTo(id));
  return is(kind === 'person' ? 'broughtBy' : kind, refTo(id));
};

/** Fields whose name begins with what is typed: choosing one opens its choices. */
function fields(text: string): Completion[] {
  const wished = text.toLowerCase();
  const counted = new Set(fieldsThatCan('count').map(({ key }) => key));
  return ALL_FIELDS.filter(
    ({ key, label }) => counted.has(key) && label.toLowerCase().startsWith(wished),
  )
    .slice(0, 4)
    .map(({ key, label }) => ({
      about: 'field',
      label: `${label} …`,
      clause: '',
      count: -1,
      field: key,
    }));
}

/** What a sentence's worth of words means, in words again; what was not understood is told. */
export interface Understanding {
  /** Compact text of the conditions, without order. */
  clause: string;
  words: string;
  unread: string[];
  count: number;
}

/** Read what somebody typed as English of the sentence's own kind; null where nothing of it is. */
export async function understand(
  db: Kysely<Database>,
  viewer: Viewer,
  typed: string,
  today: string,
): Promise<Understanding | null> {
  const { query, unread } = readSentence(typed, await dictionaryFor(db, typed), today);
  if (query.where.length === 0) return null;
  const labels = await labelsOf(db, query);
  const short = (reference: string): string | undefined => labels[reference]?.split('/').at(-1);
  const whole: Query = { ...EVERYTHING, where: query.where };
  return {
    clause: formatQuery(whole),
    words: query.where.map((node) => nodeWords(node, short)).join(', '),
    unread,
    count: await countOf(db, viewer, whole),
  };
}

/**
 * What a few letters may mean: terms, folders, stages, collections, people, fields, each with what choosing it finds;
 * always also the words themselves.
 */
export async function complete(
  db: Kysely<Database>,
  viewer: Viewer,
  typed: string,
): Promise<Completion[]> {
  const text = typed.trim();
  if (text === '') return [];
  const found = (await named(db, text)).map(async (one): Promise<Completion> => {
    const whole: Query = { ...EVERYTHING, where: [nodeOf(one)] };
    return {
      about: ABOUT[one.kind],
      label: one.kind === 'folder' ? one.label.replaceAll('/', ' / ') : one.label,
      clause: formatQuery(whole),
      count: await countOf(db, viewer, whole),
    };
  });
  return [
    ...fields(text),
    ...(await Promise.all(found)),
    {
      about: 'words',
      label: `“${text}” in names and texts`,
      clause: formatQuery({
        ...EVERYTHING,
        where: [{ field: 'words', test: 'says', values: [text] }],
      }),
      count: -1,
    },
  ];
}
