import { isCondition, type Condition, type Node, type Query } from '../query/tree';

/** Of each burst the frame that stands for it. */
const LEADS: Condition = { field: 'lead', test: 'has', values: [] };
const isLeads = (node: Node | undefined): boolean =>
  node !== undefined &&
  isCondition(node) &&
  node.field === 'lead' &&
  node.test === 'has' &&
  !node.not;
const burstOf = (node: Node): string[] | null =>
  isCondition(node) && node.field === 'burst' && node.test === 'is' && !node.not
    ? node.values.map(String)
    : null;

/** How a query folds bursts: the bursts that are unfolded in place; null where none is folded. */
export function foldingOf({ where }: Query): string[] | null {
  for (const node of where) {
    if (isLeads(node)) return [];
    const open = unfoldedIn(node);
    if (open) return open;
  }
  return null;
}

function unfoldedIn(node: Node): string[] | null {
  if (isCondition(node) || !('any' in node) || !isLeads(node.any[0])) return null;
  const bursts = node.any.slice(1).map(burstOf);
  return bursts.every((ids) => ids !== null) ? bursts.flat() : null;
}

/** The query with bursts folded but for some, or with none folded. @param open null: none is folded */
export function withFolding(query: Query, open: readonly string[] | null): Query {
  const where = query.where.filter((node) => !isLeads(node) && !unfoldedIn(node));
  if (open === null) return { ...query, where };
  const unfolded: Condition[] = open.map((burst) => ({
    field: 'burst',
    test: 'is',
    values: [burst],
  }));
  return { ...query, where: [...where, open.length > 0 ? { any: [LEADS, ...unfolded] } : LEADS] };
}

/** Fold or unfold one burst in place. */
export function toggled(query: Query, burst: string): Query {
  const open = foldingOf(query) ?? [];
  return withFolding(
    query,
    open.includes(burst) ? open.filter((one) => one !== burst) : [...open, burst],
  );
}
