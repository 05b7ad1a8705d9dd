import type { Completion } from '#core/catalogue/tile';
import { closest, nodeOfName, type Close } from '#core/choices/closest';
import type { RefKind } from '#core/fields/field';
import { fieldsThatCan } from '#core/fields/registry';
import type { Viewer } from '#core/people/viewer';
import { readSentence, SENTENCE_WORDS } from '#core/query/english';
import { formatQuery } from '#core/query/grammar';
import { nodeWords } from '#core/query/sentence';
import { EVERYTHING, type Query } from '#core/query/tree';
import { folded, isMistyped, nearness } from '#core/text/close';
import type { House } from '../house/house';
import { allNames, dictionaryFor, labelsOf } from '../query/names';
import { countOf } from './find';
import { nearestNames, total } from './reading';

const ABOUT: Record<RefKind, string> = {
  term: 'about',
  folder: 'in',
  stage: 'at stage',
  collection: 'collected in',
  accession: 'accession',
  person: 'brought in by',
};

type Counted = Close & { count: number };

/** The nearest names with what each finds; the database tells them where the index does not. */
async function named(house: House, viewer: Viewer, typed: string): Promise<Counted[]> {
  const answer = await nearestNames(house, typed);
  if (answer) return answer;
  const near = closest(await allNames(house.db), typed);
  return Promise.all(
    near.map(async (one) => ({
      ...one,
      count: await countOf(house.db, viewer, { ...EVERYTHING, where: [nodeOfName(one)] }),
    })),
  );
}

/** Fields whose name begins with what is typed: choosing one opens its choices. */
function fields(text: string): Completion[] {
  const wished = folded(text);
  const counted = fieldsThatCan('count');
  const begins = counted.filter(({ label }) => nearness(folded(label), wished) === 'begins');
  const near =
    begins.length > 0 ? begins : counted.filter(({ label }) => isMistyped(folded(label), wished));
  return near.slice(0, 4).map(({ key, label }) => ({
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
  /** Words that were taken for others. */
  guessed: { typed: string; meant: string }[];
  count: number;
}

/** Words nobody understood that are looked at again. */
const MOST_GUESSED = 6;

const LONGEST_RUN = 3;
/** Shorter words may mean anything: they are told, not guessed. */
const LEAST_GUESSED = 4;
/** Words that follow each other in a text, the longest runs first: `box kitez`, then `box`, `kitez`. */
function runsOf(words: readonly string[], text: string): string[] {
  const runs: string[] = [];
  for (let length = LONGEST_RUN; length > 0; length -= 1)
    for (let from = 0; from + length <= words.length; from += 1) {
      const run = words.slice(from, from + length).join(' ');
      if (run.length >= LEAST_GUESSED && text.includes(run)) runs.push(run);
    }
  return runs;
}

/** What an unread word may have been meant to be: a name by its beginning or mistyped, or a word of sentences. */
async function meantBy(house: House, viewer: Viewer, word: string): Promise<string | null> {
  const own = SENTENCE_WORDS.find(
    (one) => one.length >= word.length - 1 && isMistyped(folded(one), folded(word)),
  );
  // Of several words all must be meant by the name.
  const isRun = word.includes(' ');
  const [name] = (await named(house, viewer, word)).filter(
    ({ how, plain }) => how !== 'holds' && (!isRun || plain.length >= word.length - 2),
  );
  if (name && (name.how !== 'typo' || !own)) return `"${name.label.replaceAll('"', '""')}"`;
  return own ?? null;
}

/** Read what somebody typed as English of the sentence's own kind; null where nothing of it is. */
export async function understand(
  house: House,
  viewer: Viewer,
  typed: string,
  today: string,
): Promise<Understanding | null> {
  const { db } = house;
  let text = typed;
  let read = readSentence(text, await dictionaryFor(db, text), today);
  const guessed: Understanding['guessed'] = [];
  for (const words of runsOf(read.unread.slice(0, MOST_GUESSED), typed)) {
    if (!text.includes(words)) continue;
    const meant = await meantBy(house, viewer, words);
    if (meant === null) continue;
    const next = text.replace(words, () => meant);
    const again = readSentence(next, await dictionaryFor(db, next), today);
    if (again.unread.length >= read.unread.length) continue;
    [text, read] = [next, again];
    guessed.push({ typed: words, meant: meant.replace(/^"|"$/g, '').replaceAll('""', '"') });
  }
  const { query, unread } = read;
  if (query.where.length === 0) return null;
  const labels = await labelsOf(db, query);
  const short = (reference: string): string | undefined => labels[reference]?.split('/').at(-1);
  const whole: Query = { ...EVERYTHING, where: query.where };
  return {
    clause: formatQuery(whole),
    words: query.where.map((node) => nodeWords(node, short)).join(', '),
    unread,
    guessed,
    count: await total(house, viewer, whole),
  };
}

/**
 * What a few letters may mean: terms, folders, stages, collections, people, fields, each with what choosing it finds;
 * always also the words themselves.
 */
export async function complete(house: House, viewer: Viewer, typed: string): Promise<Completion[]> {
  const text = typed.trim();
  if (text === '') return [];
  const found = (await named(house, viewer, text)).map((one): Completion => ({
    about: ABOUT[one.kind],
    label: one.kind === 'folder' ? one.label.replaceAll('/', ' / ') : one.label,
    clause: formatQuery({ ...EVERYTHING, where: [nodeOfName(one)] }),
    count: one.count,
  }));
  return [
    ...fields(text),
    ...found,
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
