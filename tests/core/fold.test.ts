import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { folded } from '#core/ledger/fold';

const line = fc
  .record({
    kind: fc.constantFrom('record', 'rename'),
    summary: fc.constantFrom('Set rating', 'Set title'),
    actor: fc.constantFrom('Odile', 'Bea'),
    minutes: fc.integer({ min: 0, max: 50 }),
    total: fc.integer({ min: 1, max: 9 }),
    undoes: fc.constantFrom(null, null, null, 'x'),
    undone: fc.boolean(),
  })
  .map(({ minutes, ...rest }) => ({ ...rest, minutes }));
const lines = fc.array(line, { maxLength: 40 }).map((list) => {
  let at = Date.UTC(2026, 8, 12);
  return list.map(({ minutes, ...rest }, position) => {
    at -= minutes * 60_000;
    return { ...rest, id: String(position), at: new Date(at) };
  });
});

describe('the ledger folded', () => {
  it('holds every line once, in order, and folds what is alike alone', () => {
    fc.assert(
      fc.property(lines, (all) => {
        const folds = folded(all);
        expect(folds.flatMap((fold) => fold.lines)).toEqual(all);
        for (const fold of folds) {
          expect(fold.key).toBe(fold.lines[0]!.id);
          expect(fold.total).toBe(fold.lines.reduce((sum, { total }) => sum + total, 0));
          expect(
            new Set(fold.lines.map((l) => `${l.kind}${l.summary}${l.actor}${l.undone}`)).size,
          ).toBe(1);
          if (fold.lines.length > 1)
            expect(fold.lines.every(({ undoes }) => undoes === null)).toBe(true);
        }
      }),
    );
  });
  it('parts what lies half an hour apart', () => {
    const one = {
      kind: 'record',
      summary: 'Set rating',
      actor: 'O',
      total: 1,
      undoes: null,
      undone: false,
    };
    const at = (minutes: number) => ({ ...one, id: `${minutes}`, at: new Date(minutes * 60_000) });
    expect(folded([at(100), at(75), at(40)]).map(({ lines: l }) => l.length)).toEqual([2, 1]);
  });
});
