import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { closest, nameOf } from '#core/choices/closest';
import { SENTENCE_WORDS } from '#core/english/phrases';
import { hitsIn, isMistyped, nearness } from '#core/text/close';

const NAMES = [
  nameOf('term', '1', 'Kite'),
  nameOf('term', '2', 'Box kite'),
  nameOf('term', '3', 'Käthe’s knot'),
  nameOf('folder', '4', 'Studio shelf/Wind Week/Harbour flights'),
  nameOf('stage', '5', 'Shortlist'),
  nameOf('person', '6', 'Odile Marchetti'),
];
const found = (typed: string): string[] => closest(NAMES, typed).map(({ label }) => label);

describe('names', () => {
  it('are near by beginning, by a word’s beginning, by holding, in this order', () => {
    expect(nearness('kite', 'kite')).toBe('same');
    expect(nearness('kite', 'ki')).toBe('begins');
    expect(nearness('box kite', 'ki')).toBe('word');
    expect(nearness('skiing kit', 'kit')).toBe('word');
    expect(nearness('skiing', 'kii')).toBe('holds');
    expect(nearness('kite', 'dusk')).toBeNull();
    expect(found('kit')).toEqual(['Kite', 'Box kite']);
  });

  it('are found without accents, in any case, folders by their own name', () => {
    expect(found('KATHE')).toEqual(['Käthe’s knot']);
    expect(found('harbour')).toEqual(['Studio shelf/Wind Week/Harbour flights']);
    expect(found('studio shelf')).toEqual([]);
  });

  it('forgive a letter more, less, another, or two swapped, and two in long words', () => {
    for (const typed of ['shortlst', 'shorttlist', 'shprtlist', 'shrotlist', 'shrotlst'])
      expect([typed, found(typed)]).toEqual([typed, ['Shortlist']]);
    expect(found('marcheti')).toEqual(['Odile Marchetti']);
    // Short words must be typed as they are.
    expect(isMistyped('kite', 'kat')).toBe(false);
    expect(isMistyped('harbour', 'barber')).toBe(false);
  });

  it('are never more than one looks through, and take no time over many', () => {
    const many = Array.from({ length: 50_000 }, (_, at) =>
      nameOf('term', String(at), `term ${at}`),
    );
    expect(closest(many, 'term')).toHaveLength(6);
    expect(closest(many, 'tern 49999').map(({ label }) => label)).toContain('term 49999');
  });

  it('of words of sentences are the longer ones', () => {
    for (const word of ['September', 'credit', 'footage', 'without'])
      expect(SENTENCE_WORDS).toContain(word);
    expect(SENTENCE_WORDS).not.toContain('in');
  });
});

describe('hits', () => {
  it('are marked where words begin so, accents and case aside', () => {
    const marked = (text: string, ...words: string[]): string =>
      hitsIn(text, words)
        .map((part) => (part.hit ? `[${part.text}]` : part.text))
        .join('');
    expect(marked('Käthe’s knot', 'kath')).toBe('[Käth]e’s knot');
    expect(marked('north groyne, north', 'north')).toBe('[north] groyne, [north]');
    expect(marked('SLT_0412.jpg', '0412')).toBe('SLT_[0412].jpg');
    expect(marked('unkind', 'kind')).toBe('unkind');
    expect(marked('anything')).toBe('anything');
  });

  it('never change the text', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'binary' }),
        fc.array(fc.string({ minLength: 1 })),
        (text, words) => {
          expect(
            hitsIn(text, words)
              .map((part) => part.text)
              .join(''),
          ).toBe(text);
        },
      ),
    );
  });
});
