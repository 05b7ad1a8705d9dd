import { ALL_FIELDS, fieldOf } from '../fields/registry';
import { KIND_WORDS, type Kind } from '../kinds/kinds';
import { listed } from '../text/quantities';
import { groupOf, isCondition, type Condition, type Node, type Query } from './tree';
import { conditionWords, nounOf, refWords, type LabelOf } from './words';

/** What a run of the sentence opens: a top condition by its index, the kind or folder not said yet, order, grouping. */
export type Opens = number | 'kind' | 'folder' | 'order';
export interface Run {
  text: string;
  opens?: Opens;
}

const isPlain = (node: Node | undefined, field: string): node is Condition =>
  node !== undefined && isCondition(node) && node.field === field && !node.not;

/** The conditions that stand in the sentence's head: the first of kind, the first of folder. */
export function headOf(query: Query): { kind: number; folder: number } {
  return {
    kind: query.where.findIndex((node) => isPlain(node, 'kind') && node.test === 'is'),
    folder: query.where.findIndex(
      (node) =>
        isPlain(node, 'folder') &&
        (node.test === 'in' || node.test === 'only') &&
        node.values.length === 1,
    ),
  };
}

const JOINS = {
  all: [' and also ', 'both '],
  any: [' or else ', 'either '],
  none: [' nor ', 'neither '],
  spans: [' and also ', 'with spans '],
} as const;

/** A group in words; groups within it stand in brackets. */
export function nodeWords(node: Node, labelOf: LabelOf): string {
  if (isCondition(node)) return conditionWords(node, labelOf);
  const [word, nodes] = groupOf(node);
  const [only] = nodes;
  // “Without spans …” says it shorter than “neither with spans …”.
  if (word === 'none' && nodes.length === 1 && only && 'spans' in only)
    return nodeWords(only, labelOf).replace(/^with/, 'without');
  const [join, begin] = JOINS[word];
  const parts = nodes.map((one) =>
    isCondition(one) ? conditionWords(one, labelOf) : `(${nodeWords(one, labelOf)})`,
  );
  if (word === 'spans') return nodes.length === 0 ? 'with spans' : `${begin}(${parts.join(join)})`;
  return begin + parts.join(join);
}

export const orderWords = (by: string): string => {
  if (by === 'hand') return 'hand';
  if (by === 'taken') return 'time taken';
  if (by === 'brought') return 'time brought in';
  const field = fieldOf(by);
  return field ? nounOf(field) : by;
};
const isTime = (by: string): boolean => fieldOf(by)?.type === 'date';
export const directionWords = (by: string): string => (isTime(by) ? 'latest first' : 'downwards');

/** The sentence of a query: plain and opening runs, without the count that stands before it. */
export function sentence(query: Query, labelOf: LabelOf): Run[] {
  const head = headOf(query);
  const kind = query.where[head.kind] as Condition | undefined;
  const folder = query.where[head.folder] as Condition | undefined;
  const runs: Run[] = [
    {
      text: kind
        ? listed(kind.values.map((value) => KIND_WORDS[value as Kind]))
        : 'items of every kind',
      opens: kind ? head.kind : 'kind',
    },
    { text: ' in ' },
    {
      text: folder
        ? `${folderName(folder, labelOf)}, ${folder.test === 'in' ? 'all levels' : 'this level'}`
        : 'all holdings',
      opens: folder ? head.folder : 'folder',
    },
  ];
  query.where.forEach((node, index) => {
    if (index === head.kind || index === head.folder) return;
    runs.push({ text: ', ' }, { text: nodeWords(node, labelOf), opens: index });
  });
  const { by, down } = query.order;
  runs.push(
    { text: ', ordered by ' },
    { text: `${orderWords(by)}${down ? `, ${directionWords(by)}` : ''}`, opens: 'order' },
  );
  if (query.group !== undefined)
    runs.push(
      { text: ', parted by ' },
      {
        text: query.group === 'none' ? 'nothing' : nounOf(fieldOf(query.group)!),
        opens: 'order',
      },
    );
  return runs;
}

const folderName = (folder: Condition, labelOf: LabelOf): string =>
  refWords(folder.values[0], labelOf);

/** The sentence as text, which `readSentence` reads back to the same query. */
export const sentenceText = (query: Query, labelOf: LabelOf): string =>
  sentence(query, labelOf)
    .map(({ text }) => text)
    .join('');

/** Fields by the words the sentence orders by. */
export const ORDERS_BY_WORDS: ReadonlyMap<string, string> = new Map([
  ['hand', 'hand'],
  ...ALL_FIELDS.filter(({ uses }) => uses.includes('sort')).map(
    ({ key }) => [orderWords(key).toLowerCase(), key] as [string, string],
  ),
]);
