import { describe, expect, it } from 'vitest';
import type { CodeColumn } from '#core/index/codeColumn';
import { countOver, type Sums } from '#core/index/counting';
import { Profiles } from '#core/index/profiles';
import { inOrder, ShelfIndex } from '#core/index/shelfIndex';
import { random as seeded } from '../../demo/paint/random';

const idOf = (ord: number): string => `018f0000-0000-7000-8000-${String(ord).padStart(12, '0')}`;

const byCode = ({ codes, counts }: Sums): [number, number][] =>
  Array.from(codes, (code, at): [number, number] => [code, counts[at]!]).sort(([a], [b]) => a - b);

describe('what fields say together', () => {
  const { int } = seeded(5);
  const random = (below: number): number => int(0, below - 1);
  const put = (index: ShelfIndex, ord: number): void => {
    const camera = random(6);
    const values = {
      rating: random(7),
      camera: camera === 0 ? null : `Camera ${camera}`,
      lens: camera === 0 ? null : `Lens ${camera % 2}`,
      iso: random(3) === 0 ? null : 100 * 2 ** random(4),
      creditLine: random(40) === 0 ? `Credit ${ord}` : null,
    };
    index.put({
      ord,
      id: idOf(ord),
      numberKey: ord,
      aspect: 150,
      day: '',
      values: inOrder(values),
    });
  };

  it('is counted once for all of them, also after items came, changed and went', () => {
    const index = new ShelfIndex();
    for (let ord = 1; ord <= 3000; ord += 1) put(index, ord);
    const columns = ['rating', 'camera', 'lens', 'iso', 'creditLine'].map(
      (key) => (index.kept(key) as { column: CodeColumn }).column,
    );
    const profiles = new Profiles(index);
    profiles.make(columns);
    let together = 0;
    const compare = (): void => {
      const rows = Uint32Array.from({ length: index.size - 1 }, (_, at) => at + 1).filter(
        (row) => index.alive[row] && random(5) > 0,
      );
      for (const column of columns) {
        const profile = profiles.of(column, rows.length);
        if (!profile) continue;
        together += 1;
        const parted = profile.parted(countOver(rows, profile.counting()));
        expect(byCode(parted.get(column)!)).toEqual(byCode(countOver(rows, column.counting())));
      }
    };
    compare();
    for (let step = 0; step < 400; step += 1) {
      if (random(8) === 0) index.drop(idOf(1 + random(3000)));
      else put(index, 1 + random(step % 2 ? 3000 : 4500));
      if (step % 40 === 0) compare();
    }
    compare();
    expect(together).toBeGreaterThan(40);
  });

  it('is given up where items say too many different things, and made anew', () => {
    const index = new ShelfIndex();
    for (let ord = 1; ord <= 50; ord += 1) put(index, ord);
    const columns = ['camera', 'creditLine'].map(
      (key) => (index.kept(key) as { column: CodeColumn }).column,
    );
    const profiles = new Profiles(index);
    profiles.make(columns);
    const rows = Uint32Array.from({ length: 70_000 }, (_, at) => at + 1);
    for (const ord of rows)
      index.put({
        ...{ ord, id: idOf(ord), numberKey: ord, aspect: 150, day: '' },
        values: inOrder({ camera: `Camera ${ord % 3}`, creditLine: `Credit ${ord}` }),
      });
    expect(profiles.of(columns[0]!, rows.length)).toBeUndefined();
    expect(profiles.isSpoilt).toBe(true);
    profiles.make(columns);
    expect(profiles.isSpoilt).toBe(false);
  }, 30_000);
});
