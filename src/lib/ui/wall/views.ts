/** Ways to look at what was found. */
export const VIEWS = ['wall', 'register', 'timeline', 'atlas'] as const;
export type View = (typeof VIEWS)[number];

/** px a row of the wall is high */
export const SMALLEST = 90;
export const LARGEST = 420;
export const sizeWithin = (px: number): number => Math.min(LARGEST, Math.max(SMALLEST, px));
