/** Cut text to a number of UTF-8 bytes without splitting a character. */
export function cutBytes(text: string, limit: number): string {
  const encoder = new TextEncoder();
  if (encoder.encode(text).length <= limit) return text;
  let cut = '';
  let size = 0;
  for (const character of text) {
    size += encoder.encode(character).length;
    if (size > limit) break;
    cut += character;
  }
  return cut;
}
