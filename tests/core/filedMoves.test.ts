import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { listOfMoves, movesListed, type FiledMove, type FiledMoves } from '#core/naming/filing';

const name = fc.constantFrom('a.jpg', 'a.jpg.xmp', 'ä.tif', 'b');
const folder = fc.constantFrom('Shelf', 'Shelf/2026', 'Far/2026/09');
const move: fc.Arbitrary<FiledMove> = fc.record({
  from: folder,
  to: folder,
  before: name,
  after: name,
  problem: fc.option(fc.constantFrom('is there already', 'another of these')),
  along: fc.boolean(),
});

/** As a plan packs them: every folder once, a name only where it is another. */
function packed(moves: readonly FiledMove[]): FiledMoves {
  const folders = [...new Set(moves.flatMap(({ from, to }) => [from, to]))];
  return {
    folders,
    from: moves.map(({ from }) => folders.indexOf(from)),
    to: moves.map(({ to }) => folders.indexOf(to)),
    before: moves.map(({ before }) => before),
    after: moves.map(({ before, after }) => (after === before ? null : after)),
    along: moves.flatMap(({ along }, at) => (along ? [at] : [])),
    problems: moves.flatMap(({ problem }, at): [number, string][] =>
      problem === null ? [] : [[at, problem]],
    ),
  };
}

describe('moves as columns', () => {
  it('say of each what was put in', () => {
    fc.assert(
      fc.property(fc.array(move, { maxLength: 40 }), (moves) => {
        expect(listOfMoves(packed(moves))).toEqual(moves);
        expect(movesListed(packed(moves)).count).toBe(moves.length);
      }),
    );
  });

  it('of a hundred thousand are a few megabytes, and one is found at once', () => {
    const many = Array.from({ length: 100_000 }, (_, at): FiledMove => {
      const shelf = `Studio shelf/Roll ${at % 300}`;
      const of = { from: shelf, to: `${shelf}/2026`, before: `HRN_${at}.JPG` };
      return { ...of, after: of.before, problem: null, along: false };
    });
    const moves = packed(many);
    expect(JSON.stringify(moves).length).toBeLessThan(4_000_000);
    expect(movesListed(moves).at(99_999)).toEqual(many[99_999]);
  });
});
