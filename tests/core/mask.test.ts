import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fitsMask, regexOfMask } from '#core/text/mask';

describe('how a value is written', () => {
  it.each([
    ['© #### *', '© 2026 Saltreach Kites', true],
    ['© #### *', '© 26 Saltreach Kites', false],
    ['@@-####', 'WW-2026', true],
    ['@@-####', 'WÄ-2026', false],
    ['*', '', true],
    ['?', '', false],
    ['?', '🪁', true],
    ['a*b*c', 'a--b--c', true],
    ['a*b*c', 'a--c--b', false],
    ['\\#*', '#1', true],
    ['\\#*', '11', false],
    ['(x+)', '(x+)', true],
    ['', '', true],
    ['', 'x', false],
  ])('%s and %s: %s', (mask, text, fits) => {
    expect(fitsMask(text, mask)).toBe(fits);
  });
  it('is the same as its regular expression', () => {
    const text = fc.string({ unit: fc.constantFrom(...'aB1#@?*.+()[]\\^$-| '), maxLength: 12 });
    fc.assert(
      fc.property(text, text, (mask, value) => {
        const regex = new RegExp(regexOfMask(mask), 'su');
        expect(fitsMask(value, mask)).toBe(regex.test(value));
      }),
      { numRuns: 2000 },
    );
  });
  it('takes no time over what fits almost everywhere', () => {
    expect(fitsMask('a'.repeat(20_000), `${'a*'.repeat(90)}b`)).toBe(false);
  });
});
