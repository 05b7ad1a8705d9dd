import { ALL_FIELDS } from '../fields/registry';

/** What is shown of an item, as far as it is compared. */
export interface Comparable {
  record: object;
  technical: object;
}

/** Labels of the fields in which some items differ, in the order of the registry. */
export function differing(items: readonly Comparable[]): string[] {
  const valueOf = ({ record, technical }: Comparable, key: string): unknown =>
    (record as Record<string, unknown>)[key] ?? (technical as Record<string, unknown>)[key] ?? null;
  return ALL_FIELDS.filter(({ key, type, part }) => {
    if (type === 'words' || part === 'archive') return false;
    const told = new Set(items.map((item) => JSON.stringify(valueOf(item, key))));
    return told.size > 1;
  }).map(({ label }) => label.toLowerCase());
}
