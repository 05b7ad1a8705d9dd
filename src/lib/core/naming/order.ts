import type { RenameSubject } from './rename';

/** In which order a batch counts. */
export const ORDERS = ['given', 'name', 'original', 'taken', 'brought'] as const;
export type OrderBy = (typeof ORDERS)[number];
export interface CountingOrder {
  by: OrderBy;
  down: boolean;
  /** Moved by hand afterwards, one after the other: which stands before which now; null: at the end. */
  moved: { id: string; before: string | null }[];
}
export const AS_GIVEN: CountingOrder = { by: 'given', down: false, moved: [] };
/** Moves by hand that are kept. */
export const MOST_MOVED = 500;

const NATURAL = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });
const LAST = Number.POSITIVE_INFINITY;

function compared(by: OrderBy): ((a: RenameSubject, b: RenameSubject) => number) | null {
  switch (by) {
    case 'given':
      return null;
    case 'name':
    case 'original':
      return (a, b) => NATURAL.compare(a[by], b[by]);
    case 'taken': {
      const time = ({ takenText }: RenameSubject): string => takenText ?? '\uffff';
      return (a, b) =>
        time(a) < time(b) ? -1 : time(a) > time(b) ? 1 : NATURAL.compare(a.name, b.name);
    }
    default:
      return (a, b) => (a[by] ?? LAST) - (b[by] ?? LAST) || NATURAL.compare(a.name, b.name);
  }
}

/** Subjects in the order in which they are counted; what is equal stays as it was given. */
export function inCountingOrder<S extends RenameSubject>(
  subjects: readonly S[],
  { by, down, moved }: CountingOrder,
): S[] {
  const compare = compared(by);
  const sorted = compare ? [...subjects].sort(compare) : [...subjects];
  if (down) sorted.reverse();
  if (moved.length === 0) return sorted;
  for (const { id, before } of moved.slice(0, MOST_MOVED)) {
    const from = sorted.findIndex((one) => one.id === id);
    const [own] = from < 0 ? [] : sorted.splice(from, 1);
    if (!own) continue;
    const to = before === null ? -1 : sorted.findIndex((one) => one.id === before);
    sorted.splice(to < 0 ? sorted.length : to, 0, own);
  }
  return sorted;
}
