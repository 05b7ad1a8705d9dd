import { describe, expect, it } from 'vitest';
import { codesNear, colourFrom, colourName, mainColours, NAMED } from '#core/colour/palette';
import { formatQuery, parseQuery } from '#core/query/grammar';
import { readSentence } from '#core/english/read';
import { sentenceText } from '#core/query/sentence';

/** Pixels of one colour after the other. */
const painted = (...parts: [number, number, number, count: number][]): Uint8Array =>
  Uint8Array.from(
    parts.flatMap(([r, g, b, count]) => Array.from({ length: count }, () => [r, g, b]).flat()),
  );

describe('colours', () => {
  it('are read as digits or names and told by name where they have one', () => {
    expect(colourFrom('#A63')).toBe('#aa6633');
    expect(colourFrom('aa6633')).toBe('#aa6633');
    expect(colourFrom(' Teal ')).toBe(NAMED['teal']);
    for (const wrong of ['', 'reddish', '#12', '#1234567', 'constructor', 'toString'])
      expect(colourFrom(wrong)).toBeNull();
    expect(colourName(NAMED['red']!)).toBe('red');
    expect(colourName('#123456')).toBe('#123456');
  });

  it('look like what people call so, in the light and in the shade, and like nothing else', () => {
    const near = (name: string): Set<string> => new Set(codesNear(NAMED[name]!));
    expect([...['#c22', '#d33', '#a11']].every((code) => near('red').has(code))).toBe(true);
    for (const other of ['#2a2', '#22c', '#eee', '#222', '#cc2', '#888'])
      expect([other, near('red').has(other)]).toEqual([other, false]);
    for (const name of Object.keys(NAMED)) {
      const own = near(name);
      expect([name, own.size > 5, own.size < 700]).toEqual([name, true, true]);
    }
    expect([...near('blue')].some((code) => near('red').has(code))).toBe(false);
    expect([...near('white')].some((code) => near('black').has(code))).toBe(false);
  });

  it('of a picture are its large parts, the largest first, close shades as one', () => {
    expect(mainColours(painted([204, 34, 34, 50], [34, 34, 204, 40], [0, 255, 0, 4]))).toEqual([
      '#c22',
      '#22c',
    ]);
    const shades = painted([204, 34, 34, 30], [190, 30, 34, 30], [240, 240, 240, 40]);
    expect(mainColours(shades)).toHaveLength(2);
    expect(mainColours(new Uint8Array(0))).toEqual([]);
  });

  it('stand in the sentence and are read back', () => {
    const query = parseQuery('colours red, #123');
    expect(query.where).toEqual([
      { field: 'colours', test: 'near', values: ['#cc2222', '#112233'] },
    ]);
    const words = sentenceText(query, () => undefined);
    expect(words).toContain('in colours like red or #112233');
    expect(readSentence(words, () => [], '2026-11-25').query.where).toEqual(query.where);
    expect(formatQuery(parseQuery(formatQuery(query)))).toBe(formatQuery(query));
    expect(() => parseQuery('colours mauveish')).toThrow(/takes colours like #a63/);
  });
});
