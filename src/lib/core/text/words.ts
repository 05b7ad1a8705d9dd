/** Words for searching: lower case, without accents, cut at everything that is no letter or digit. */
export function searchWords(text: string): string[] {
  const plain = text.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase();
  return [...new Set(plain.match(/[\p{L}\p{N}]+/gu) ?? [])];
}
