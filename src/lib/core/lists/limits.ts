/** What entries of lists may hold at most. */
export const MOST_TERMS = 50_000;
export const MOST_LABELS = 200;
export const LONGEST_LABEL = 200;
export const LONGEST_NOTE = 5000;
export const MOST_BROADER = 50;
/** Fields a stamp sets. */
export const MOST_LINES = 60;
