import type { FieldKey, ValueSource } from './fields';

/** Where each value of a record came from, who gave it, and when. */
export type Provenance = Partial<
  Record<FieldKey, { source: ValueSource; by: string | null; at: string }>
>;
