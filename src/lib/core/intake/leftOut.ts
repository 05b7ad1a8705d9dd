/** What lies in a source and is not brought in, and why. */
export interface LeftOut {
  /** Path below the source. */
  path: string;
  why: string;
}

export const LONE_SIDECAR = 'a sidecar without a file that is its own; it stays where it is';
