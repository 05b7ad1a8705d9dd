import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { layLabels, scaleBar } from '#core/atlas/labels';

const circle = fc.record({
  x: fc.integer({ min: 0, max: 400 }),
  y: fc.integer({ min: 0, max: 300 }),
  r: fc.integer({ min: 5, max: 26 }),
});

describe('names on a map', () => {
  it('never lie under a mark, nor on each other', () => {
    fc.assert(
      fc.property(fc.array(circle, { maxLength: 30 }), (marks) => {
        const labels = marks.map((mark, at) => ({
          ...mark,
          text: `Name ${at}`,
          kind: 'place' as const,
        }));
        const laid = layLabels(labels, marks);
        const boxes = laid.map(({ left, top, text }) => ({
          ...{ left, top, right: left + text.length * 6.6, bottom: top + 17 },
        }));
        for (const [at, box] of boxes.entries()) {
          for (const { x, y, r } of marks)
            expect(
              box.left < x + r && box.right > x - r && box.top < y + r && box.bottom > y - r,
            ).toBe(false);
          for (const other of boxes.slice(at + 1))
            expect(
              box.left < other.right &&
                box.right > other.left &&
                box.top < other.bottom &&
                box.bottom > other.top,
            ).toBe(false);
        }
      }),
    );
  });

  it('stand beside what they name while there is room', () => {
    const mark = { x: 100, y: 100, r: 10 };
    const [laid] = layLabels([{ ...mark, text: 'Harbour', kind: 'own' }], [mark]);
    expect(laid).toMatchObject({ left: 114, text: 'Harbour' });
  });

  it('have a scale in round numbers', () => {
    for (const metres of [0.3, 1, 7, 240, 9000]) {
      const bar = scaleBar(metres)!;
      expect(bar.px).toBeGreaterThanOrEqual(59);
      expect(bar.px).toBeLessThan(160);
      expect(bar.words).toMatch(/^[125]0* (k?m)$/);
    }
    expect(scaleBar(0)).toBeNull();
  });
});
