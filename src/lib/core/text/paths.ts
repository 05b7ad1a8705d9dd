/** The last part of a path. */
const nameOf = (path: string): string => path.replace(/\/+$/, '').split('/').at(-1) ?? '';

/** Where a place lies, and what it is called. */
export interface PlaceRoot {
  root: string;
  name: string;
}

/** A sentence that tells paths from their place on, “Studio shelf / Wind Week / a.jpg”; others by their names alone. */
export function fromPlaces(sentence: string, places: readonly PlaceRoot[]): string {
  // The deepest place is the one a file lies in.
  const sorted = [...places].sort((a, b) => b.root.length - a.root.length);
  const told = sorted.reduce(
    (text, { root, name }) =>
      text.replace(
        new RegExp(`${root.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')}((?:/[^”\n]*)?)(?=”)`, 'g'),
        (_, below: string) => [name, ...below.split('/').filter(Boolean)].join(' / '),
      ),
    sentence,
  );
  return withoutPaths(told);
}

/**
 * A sentence that speaks of files by their names alone: where folders lie on the server is not for everyone.
 * Paths stand in quotation marks in what we write; what tools write has them bare.
 */
export function withoutPaths(sentence: string): string {
  return sentence
    .replace(/“(\/[^”]*)”/g, (_, path: string) => `“${nameOf(path)}”`)
    .replace(
      /(^|[\s('"=:])(\/(?:[^\s/:'")]+\/)+[^\s/:'")]*)/g,
      (_, before: string, path: string) => before + nameOf(path),
    );
}
