import type { Completion } from '#core/catalogue/tile';
import { closest, nodeOfName, type Close } from '#core/choices/closest';
import { REFS } from '#core/fields/refs';
import { fieldsThatCan } from '#core/fields/registry';
import type { Viewer } from '#core/sight/viewer';
import type { Guess, Readings } from '#core/english/readings';
import { formatQuery } from '#core/query/grammar';
import { nodeWords } from '#core/query/sentence';
import { EVERYTHING, type Query } from '#core/query/tree';
import { folded, isMistyped, nearness } from '#core/text/close';
import { apart, runApart } from '../apart/apart';
import type { House } from '../house/house';
import { allNames, labelsOf, namesFor } from '../query/names';
import { countOf } from './find';
import { nearestNames, total } from './reading';
import type { readTyped } from './typed';

type Counted = Close & { count: number };

/** The nearest names with what each finds; the database tells them where the index does not. */
async function named(house: House, viewer: Viewer, typed: string): Promise<Counted[]> {
  const answer = await nearestNames(house, viewer, typed);
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

const READ = apart<typeof readTyped>('catalogue/typed', 'readTyped', 'asking');
const READ_SECONDS = 5;
/** Letters that are read as a sentence, and those that are taken for a name. */
const LONGEST_READ = 1000;
const LONGEST_NAMED = 120;

async function read(house: House, text: string, today: string, guesses: Guess[] = []) {
  const all = [text, ...guesses.map(({ meant }) => meant)].join(' , ');
  const names = await namesFor(house.db, all);
  return runApart(READ, { text, names, today, guesses }, READ_SECONDS);
}

/** A name some unread words may have been meant to be, by its beginning or mistyped; a word of sentences else. */
async function meantBy(
  house: House,
  viewer: Viewer,
  { words, meant }: Readings['runs'][number],
): Promise<string | null> {
  // Of several words all must be meant by the name.
  const isRun = words.includes(' ');
  const [name] = (await named(house, viewer, words)).filter(
    ({ how, plain }) => how !== 'holds' && (!isRun || plain.length >= words.length - 2),
  );
  if (name && (name.how !== 'typo' || !meant)) return `"${name.label.replaceAll('"', '""')}"`;
  return meant;
}

/**
 * Read what somebody typed as English of the sentence's own kind, in every way in which its names may be meant; empty where
 * nothing of it is. What finds something comes first.
 */
export async function understand(
  house: House,
  viewer: Viewer,
  typed: string,
  today: string,
): Promise<Understanding[]> {
  const { db } = house;
  const text = typed.slice(0, LONGEST_READ);
  const first = await read(house, text, today);
  const guesses: Guess[] = [];
  for (const run of first.runs) {
    const meant = await meantBy(house, viewer, run);
    if (meant !== null) guesses.push({ typed: run.words, meant });
  }
  const { ways, guessed } = guesses.length > 0 ? await read(house, text, today, guesses) : first;
  const plain = guessed.map(({ typed: words, meant }) => ({
    typed: words,
    meant: meant.replace(/^"|"$/g, '').replaceAll('""', '"'),
  }));
  const told: Understanding[] = [];
  for (const { query, unread } of ways) {
    if (query.where.length === 0) continue;
    const labels = await labelsOf(db, query);
    const short = (reference: string): string | undefined => labels[reference]?.split('/').at(-1);
    const whole: Query = { ...EVERYTHING, where: query.where };
    told.push({
      clause: formatQuery(whole),
      words: query.where.map((node) => nodeWords(node, short)).join(', '),
      unread,
      guessed: plain,
      count: await total(house, viewer, whole),
    });
  }
  return finding(told);
}

/** What finds nothing behind what does, each in its order. */
const finding = <T extends { count: number }>(all: T[]): T[] => [
  ...all.filter(({ count }) => count !== 0),
  ...all.filter(({ count }) => count === 0),
];

/**
 * What a few letters may mean: terms, folders, stages, collections, people, fields, each with what choosing it finds;
 * always also the words themselves.
 */
export async function complete(house: House, viewer: Viewer, typed: string): Promise<Completion[]> {
  const text = typed.trim();
  if (text === '') return [];
  // Nothing has so long a name.
  const near = text.length > LONGEST_NAMED ? [] : await named(house, viewer, text);
  const found = finding(near).map((one): Completion => ({
    about: REFS[one.kind].about,
    label: one.kind === 'folder' ? one.label.replaceAll('/', ' / ') : one.label,
    clause: formatQuery({ ...EVERYTHING, where: [nodeOfName(one)] }),
    count: one.count,
  }));
  return [
    ...(text.length > LONGEST_NAMED ? [] : fields(text)),
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
