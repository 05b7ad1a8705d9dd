import { execFileSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { withBuffer } from '#server/files/buffers';
import { hashBoth, hashEssence, hashFile } from '#server/files/hash';
import { apart, endApart } from '#server/apart/apart';
import { measurePicture, type Rendered, type renderSizes } from '#server/renditions/render';
import { inTurn, rendered } from '#server/renditions/turns';

let folder = '';
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'mindful-turns-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const flat = (width: number, height: number) =>
  sharp({ create: { width, height, channels: 3, background: '#456' } });

/** Bytes the decoder of a picture holds. */
async function measured(picture: Buffer): Promise<number> {
  const path = join(folder, `${randomUUID()}.jpg`);
  writeFileSync(path, picture);
  return (await measurePicture({ path, turn: null })).held;
}

/** How many of the given pictures were decoded at one time at most. */
async function mostAtOnce(pictures: Buffer[]): Promise<number> {
  let now = 0;
  let most = 0;
  await Promise.all(
    pictures.map((picture) =>
      measured(picture).then((held) =>
        inTurn(held, async () => {
          now += 1;
          most = Math.max(most, now);
          await new Promise((resolve) => setTimeout(resolve, 30));
          now -= 1;
        }),
      ),
    ),
  );
  return most;
}

describe('turns', () => {
  it('pictures a decoder holds whole are decoded one at a time, others side by side', async () => {
    const light = await flat(4500, 3000).jpeg().toBuffer();
    const progressive = await flat(4500, 3000).jpeg({ progressive: true }).toBuffer();
    const small = await flat(300, 200).jpeg({ progressive: true }).toBuffer();
    const turned = await flat(6000, 4000).jpeg().withMetadata({ orientation: 6 }).toBuffer();
    expect(await mostAtOnce([light, light, light])).toBe(3);
    expect(await mostAtOnce([small, small, small])).toBe(3);
    expect(await mostAtOnce([progressive, progressive, progressive])).toBe(1);
    expect(await mostAtOnce([turned, progressive, light])).toBe(2);
  });

  it('one that fails gives its turn to the next', async () => {
    const heavy = await flat(4500, 3000).jpeg({ progressive: true }).toBuffer();
    const held = await measured(heavy);
    const failed = inTurn(held, () => Promise.reject(new Error('broken')));
    await expect(failed).rejects.toThrow('broken');
    expect(await inTurn(held, () => Promise.resolve('next'))).toBe('next');
  });
});

describe('a decoder that breaks', () => {
  const SIZES = apart<typeof renderSizes>('renditions/render', 'renderSizes', 'pictures');
  /** Processes that make pictures for this one. */
  const processes = (): number[] =>
    execFileSync('sh', ['-c', `pgrep -P ${process.pid} -f apart/process.ts || true`])
      .toString()
      .split('\n')
      .filter(Boolean)
      .map(Number);

  it('takes down one piece of work, which is tried again; broken twice it is given up, and the next is made', async () => {
    const path = join(folder, 'large.jpg');
    writeFileSync(path, await flat(9000, 6000).jpeg({ progressive: true }).toBuffer());
    const make = (name: string): Promise<Rendered> =>
      rendered(
        SIZES,
        {
          ...{ path, turn: null },
          sizes: [{ edge: 2048, quality: 80, effort: 0, target: join(folder, name), run: name }],
        },
        60,
      );
    await make('first.webp');
    /** Kill whatever process of ours appears, so often. */
    const kill = async (times: number): Promise<void> => {
      for (let killed = 0; killed < times;) {
        const [pid] = processes();
        if (pid !== undefined) {
          process.kill(pid, 'SIGKILL');
          killed += 1;
        }
        await new Promise((resolve) => setTimeout(resolve, 150));
      }
    };
    const [again] = await Promise.all([make('second.webp'), kill(1)]);
    expect(again.made[0]!.width).toBe(2048);
    let isOver = false;
    const broken = make('third.webp').finally(() => (isOver = true));
    const killing = (async () => {
      while (!isOver) await kill(1);
    })();
    await expect(broken).rejects.toMatchObject({ code: 'file-unreadable' });
    await endApart();
    await Promise.race([killing, new Promise((resolve) => setTimeout(resolve, 1000))]);
    expect((await make('fourth.webp')).width).toBe(9000);
  }, 60_000);
});

describe('reading', () => {
  it('lends each buffer to one reader at a time', async () => {
    const lent = new Set<Buffer>();
    await Promise.all(
      Array.from({ length: 40 }, (_, at) =>
        withBuffer(async (buffer) => {
          expect(lent.has(buffer)).toBe(false);
          lent.add(buffer);
          buffer.fill(at);
          await new Promise((resolve) => setTimeout(resolve, at % 5));
          expect(buffer.every((byte) => byte === at)).toBe(true);
          lent.delete(buffer);
        }),
      ),
    );
  });

  it('takes both hashes from one reading, for files larger than a piece too', async () => {
    const path = join(folder, 'noise.jpg');
    const noise = { type: 'gaussian', mean: 128, sigma: 60 } as const;
    const create = { width: 1600, height: 1200, channels: 3, background: '#888', noise } as const;
    const picture = await sharp({ create }).jpeg({ quality: 100 }).toBuffer();
    expect(picture.length).toBeGreaterThan(2 << 20);
    writeFileSync(path, picture);
    const both = await hashBoth(path, 'image/jpeg');
    expect(both).toEqual({
      contentHash: await hashFile(path),
      essenceHash: await hashEssence(path, 'image/jpeg'),
    });
    // What a header says changes the content, not the picture.
    const described = join(folder, 'described.jpg');
    const comment = Buffer.from([0xff, 0xfe, 0, 6, 1, 2, 3, 4]);
    writeFileSync(described, Buffer.concat([picture.subarray(0, 2), comment, picture.subarray(2)]));
    const after = await hashBoth(described, 'image/jpeg');
    expect(after.essenceHash).toBe(both.essenceHash);
    expect(after.contentHash).not.toBe(both.contentHash);
    writeFileSync(described, picture.subarray(0, -100));
    expect((await hashBoth(described, 'image/jpeg')).essenceHash).toBeNull();
    expect((await hashBoth(path, 'image/tiff')).essenceHash).toBeNull();
  });
});
