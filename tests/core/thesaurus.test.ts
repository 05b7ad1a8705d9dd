import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { TermEntry } from '#core/lists/entries';
import {
  circleIn,
  exchanged,
  plannedImport,
  tidied,
  type ExchangedTerm,
} from '#core/terms/exchange';
import { outlineOf, termsFromOutline } from '#core/terms/outline';
import { rowOfTerm, termsFromRows } from '#core/terms/table';

const entry = (label: string, more: Partial<TermEntry> = {}): TermEntry => ({
  ...{ label, labels: [], broader: [], related: [], note: '', retired: false },
  ...more,
});
let made = 0;
const newId = (): string => `id-${(made += 1)}`;
const labelled = (terms: ExchangedTerm[], label: string): ExchangedTerm =>
  terms.find((term) => term.label === label)!;

describe('indented text', () => {
  const TEXT = `Kite
  = Drachen
  Box kite
    Six-sided box kite
  Delta
\tRokkaku
Wind
  Gale
  ~ Kite
Weather
  Gale
`;

  it('tells what stands under what, also under several, and what is also said', () => {
    const terms = termsFromOutline(TEXT);
    const above = (label: string): string[] => labelled(terms, label).broader;
    expect(above('Six-sided box kite')).toEqual(['box kite']);
    expect(above('Gale')).toEqual(['wind', 'weather']);
    // A tab is as far in as four spaces.
    expect(above('Rokkaku')).toEqual(['delta']);
    expect(labelled(terms, 'Kite').labels).toEqual([{ kind: 'also', lang: '', label: 'Drachen' }]);
    expect(labelled(terms, 'Gale').related).toEqual(['kite']);
  });

  it('names the line that stands below nothing', () => {
    expect(() => termsFromOutline('\n= Drachen')).toThrow(/Line 2/);
  });

  it('reads back what it wrote', () => {
    const terms = termsFromOutline(TEXT);
    const again = termsFromOutline(outlineOf(terms));
    for (const term of terms) {
      const other = labelled(again, term.label);
      expect([...other.broader].sort()).toEqual([...term.broader].sort());
      expect(other.labels).toEqual(term.labels);
    }
  });
});

describe('a table of terms', () => {
  const label = fc
    .string({
      minLength: 1,
      maxLength: 12,
      unit: fc.constantFrom('a', 'B', ' ', ';', '\\', 'ö', ',', '"'),
    })
    .map((text) => text.trim())
    .filter((text) => text !== '' && !text.includes(': '));

  it('reads back every label it wrote, whatever is in it', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(label, { minLength: 2, maxLength: 6, selector: (one) => one.toLowerCase() }),
        (labels) => {
          const [first, ...rest] = labels as [string, ...string[]];
          const term: ExchangedTerm = {
            ...entry(first),
            ...{ key: 'x', id: null, broader: rest, note: 'what for' },
            labels: rest.map((text) => ({ kind: 'also', lang: 'de', label: text })),
          };
          const row = rowOfTerm(term, (key) => key);
          const [own] = termsFromRows([row]).filter((one) => one.label === first);
          expect(own!.broader).toEqual(rest.map((text) => text.toLowerCase()));
          expect(own!.labels).toEqual(term.labels);
          expect(own!.note).toBe('what for');
        },
      ),
    );
  });

  it('says which column is missing', () => {
    expect(() => termsFromRows([{ name: 'Kite' }])).toThrow(/term/);
  });
});

describe('taking terms in', () => {
  const held = new Map([
    ['kite', entry('Kite', { labels: [{ kind: 'also', lang: '', label: 'Drachen' }] })],
    ['box', entry('Box kite', { broader: ['kite'] })],
    ['wind', entry('Wind', { related: ['kite'] })],
  ]);
  held.set('kite', { ...held.get('kite')!, related: ['wind'] });

  it('changes nothing where the file says what is there', () => {
    expect(plannedImport(held, exchanged(held), 'replace', newId)).toEqual([]);
    expect(plannedImport(held, exchanged(held), 'add', newId)).toEqual([]);
  });

  it('adds to what is held, or makes it as the file says', () => {
    const given = termsFromOutline('Kite\n  = Cerf-volant\n  Delta\n');
    const added = plannedImport(held, given, 'add', newId);
    const kite = added.find(({ id }) => id === 'kite')!;
    expect(kite.after.labels.map(({ label }) => label)).toEqual(['Cerf-volant', 'Drachen']);
    expect(kite.after.related).toEqual(['wind']);
    const replaced = plannedImport(held, given, 'replace', newId);
    expect(replaced.find(({ id }) => id === 'kite')!.after.labels).toHaveLength(1);
    // A relation that goes goes on both sides.
    expect(replaced.find(({ id }) => id === 'wind')!.after.related).toEqual([]);
    expect(added.find(({ after }) => after.label === 'Delta')).toMatchObject({ before: null });
  });

  it('refuses terms under themselves, over however many', () => {
    const given = termsFromOutline('Box kite\n  Kite\n');
    expect(() => plannedImport(held, given, 'add', newId)).toThrow(/under itself/);
    const chain = new Map(
      Array.from({ length: 20_000 }, (_, at) => [
        `t${at}`,
        entry(`t${at}`, { broader: [`t${at + 1}`] }),
      ]),
    );
    expect(circleIn(chain)).toBeNull();
    chain.set('t19999', entry('t19999', { broader: ['t0'] }));
    expect(circleIn(chain)).toHaveLength(20_000);
  });

  it('refuses two terms of one label and labels nobody can read', () => {
    const term = (label: string, id: string | null = null): ExchangedTerm => ({
      ...entry(label),
      ...{ key: label, id },
    });
    expect(() => plannedImport(held, [term('x'.repeat(300))], 'add', newId)).toThrow(/longer/);
    expect(() => plannedImport(held, [term('Wind', 'box')], 'replace', newId)).toThrow(/Two terms/);
  });

  it('keeps each label once', () => {
    const labels = [
      { kind: 'also', lang: '', label: 'Kite' },
      { kind: 'also', lang: 'de', label: 'Drachen' },
      { kind: 'hidden', lang: 'de', label: 'Drachen' },
    ] as const;
    expect(tidied(entry('Kite', { labels: [...labels] })).labels).toEqual([labels[1]]);
  });
});
