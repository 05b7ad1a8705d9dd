import type { Choice, Choices, FolderNode, Histogram } from '../catalogue/tile';
import type { Field } from '../fields/field';
import { NAMED } from '../colour/palette';
import { replaced, type Condition, type Query } from '../query/tree';

/** How counts are shown, whoever counted them: SQL or the index. */

/** More choices than one reads; the rest is found by its letters. */
export const MOST_CHOICES = 400;
export const BARS = 60;

/** Choices of years with their months, from counts by the finest that is known. */
export function timeChoices(rows: { value: string; count: number }[]): Choice[] {
  const years = new Map<string, number>();
  for (const { value, count } of rows)
    if (value) years.set(value.slice(0, 4), (years.get(value.slice(0, 4)) ?? 0) + count);
  const months = rows.filter(({ value }) => value.length > 4);
  return [
    ...[...years].map(([value, count]) => ({ value, count, under: null })),
    ...months.map(({ value, count }) => ({ value, count, under: value.slice(0, 4) })),
  ]
    .map((one) => ({ ...one, label: one.value }))
    .sort(
      (a, b) =>
        (b.under ?? b.value).localeCompare(a.under ?? a.value) ||
        a.value.length - b.value.length ||
        b.value.localeCompare(a.value),
    );
}

/** Which of the bars between two numbers a number belongs to. */
export function bins(from: number, to: number): (value: number) => number {
  const step = (to - from) / BARS || 1;
  return (value) => {
    const at = Math.floor((value - from) / step);
    // Divided, a value on an edge may fall on its wrong side: the edge itself decides, as it does for who is asked for a bar.
    const own = value < from + at * step ? at - 1 : value >= from + (at + 1) * step ? at + 1 : at;
    return Math.min(BARS - 1, own);
  };
}

/** Fields whose values are all different: nobody chooses among them one by one. */
export const isSpread = ({ unit }: Field): boolean => unit === 'bytes';

/** The bars of a histogram as choices: ranges as the compact text takes them. */
export function barChoices({ from, to, counts }: Histogram): Choice[] {
  const step = (to - from) / BARS || 1;
  return counts.flatMap((count, at) => {
    const low = Math.ceil(from + at * step);
    const high = at === BARS - 1 ? to : Math.ceil(from + (at + 1) * step) - 1;
    return count > 0 ? [{ value: `${low}..${high}`, label: `${low} to ${high}`, count }] : [];
  });
}

/** How the numbers of a field are spread over equal steps. */
export function histogramOf(pairs: { value: number; count: number }[]): Choices['histogram'] {
  if (pairs.length === 0) return undefined;
  // One by one: there may be more values than a call takes arguments.
  let [from, to] = [Infinity, -Infinity];
  for (const { value } of pairs) {
    if (value < from) from = value;
    if (value > to) to = value;
  }
  const counts = new Array<number>(BARS).fill(0);
  const binOf = bins(from, to);
  for (const { value, count } of pairs) counts[binOf(value)]! += count;
  return { from, to, counts };
}

/** The colours people name, with what each would leave. */
export const colourChoices = async (
  count: (condition: Condition) => Promise<number>,
): Promise<Choice[]> => {
  const found: Choice[] = [];
  for (const [label, value] of Object.entries(NAMED))
    found.push({
      value,
      label,
      count: await count({ field: 'colours', test: 'near', values: [value] }),
    });
  return found;
};

/** Choices as they are shown: the fullest of many first, numbers and few in their order. */
export function shownChoices(
  field: Field,
  all: Choice[],
  typed: string,
  spread?: Histogram,
): Pick<Choices, 'choices' | 'more' | 'histogram'> {
  // Numbers that are all different are told by how they are spread.
  if (isSpread(field))
    return spread
      ? { choices: barChoices(spread), more: false, histogram: spread }
      : { choices: [], more: false };
  if (field.type === 'number') {
    const sorted = [...all].sort((a, b) => Number(a.value) - Number(b.value));
    const histogram = histogramOf(
      sorted.map(({ value, count }) => ({ value: Number(value), count })),
    );
    return {
      choices: sorted.slice(0, MOST_CHOICES),
      more: sorted.length > MOST_CHOICES,
      ...(histogram ? { histogram } : {}),
    };
  }
  const wished = typed.toLowerCase();
  const fitting = wished ? all.filter(({ label }) => label.toLowerCase().includes(wished)) : all;
  const isOrdered = field.values !== undefined || ['date', 'colour'].includes(field.type);
  const sorted = isOrdered
    ? fitting
    : [...fitting].sort((a, b) => b.count - a.count || (a.label < b.label ? -1 : 1));
  return { choices: sorted.slice(0, MOST_CHOICES), more: sorted.length > MOST_CHOICES };
}

/** The query whose items the choices of a field count: the condition that is being chosen left out. */
export const countedQuery = (query: Query, at: number): Query =>
  at >= 0 && at < query.where.length ? replaced(query, at, null) : query;

/** Add what lies below to what lies above; parents stand before children. */
export function summedUp(nodes: FolderNode[]): FolderNode[] {
  const byId = new Map(nodes.map((node) => [node.id, node]));
  for (let at = nodes.length - 1; at >= 0; at -= 1) {
    const node = nodes[at]!;
    const parent = node.parentId === null ? undefined : byId.get(node.parentId);
    if (!parent) continue;
    parent.count += node.count;
    parent.folders += 1;
    if (node.from !== null && (parent.from === null || node.from < parent.from))
      parent.from = node.from;
    if (node.to !== null && (parent.to === null || node.to > parent.to)) parent.to = node.to;
  }
  return nodes;
}
