/** The last part of a path. */
const nameOf = (path: string): string => path.replace(/\/+$/, '').split('/').at(-1) ?? '';

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
