/** What came of a change: the operation, null where nothing differed, and how many items it changed. */
export interface Changed {
  operation: string | null;
  changed: number;
}

/** What is answered to a change: what came of it, or that it is large and goes on under Underway. */
export type ChangeAnswer = Changed & { underway: boolean };
