import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { showItem } from '#server/catalogue/show';
import type { ShownItem } from '#core/wire/shown';
import { originalOf } from '#server/files/located';
import { askForPicture } from '#server/renditions/again';
import { cacheShares, noteUse, trimCache } from '#server/renditions/cache';
import { sendDrawing } from '#server/renditions/looking';
import { sendMedia, sendPicture } from '#server/renditions/media';
import { askToRemake } from '#server/renditions/remake';
import { pictureFile, proxyFile, renditionFolder } from '#server/renditions/store';
import { setPlace } from '#server/watching/manage';
import { tilesState } from '#server/renditions/tilesState';
import { bringIn, idle, KEEPER, placeNamed, useArchive } from '../support/archive';

/** What is made of files and may go again: moving and clear pictures, covers, chosen frames, clips alike, the cache. */
const archive = useArchive();
const db = () => archive.house.db;
const request = new Request('http://archive/');
let source = '';
const ffmpeg = (...args: string[]): void =>
  void execFileSync('ffmpeg', [
    ...['-v', 'error', '-y'],
    ...args.slice(0, -1),
    join(source, args.at(-1)!),
  ]);
async function itemNamed(name: string): Promise<ShownItem> {
  const [id] = await findIds(db(), HOUSE, parseQuery(`name is "${name}"`));
  return showItem(db(), KEEPER, id!);
}
/** Mean colour of the middle of an item's picture. */
async function middle(item: ShownItem): Promise<number[]> {
  const { pictureKey } = await originalOf(db(), item.id);
  const small = sharp(pictureFile(archive.house, pictureKey, 'small')).removeAlpha();
  return [
    ...(await sharp(await small.resize(9, 9, { fit: 'fill' }).png().toBuffer())
      .extract({ left: 4, top: 4, width: 1, height: 1 })
      .raw()
      .toBuffer()),
  ];
}
const plain = (background: string) =>
  sharp({ create: { width: 300, height: 200, channels: 3, background } });

beforeAll(async () => {
  source = join(archive.folder, 'to make');
  mkdirSync(source);
  ffmpeg(...['-f', 'lavfi', '-i', 'testsrc=size=160x90:rate=10:duration=1'], 'moving.gif');
  ffmpeg(
    ...['-f', 'lavfi', '-i', 'testsrc=size=160x90:rate=10:duration=1', '-plays', '0', '-f', 'apng'],
    'moving.png',
  );
  await plain('#c02020').ensureAlpha(0.4).png().toFile(join(source, 'clear.png'));
  await plain('#2020c0').ensureAlpha(1).png().toFile(join(source, 'full.png'));
  await plain('#20a020').jpeg().toFile(join(archive.folder, 'cover.jpg'));
  ffmpeg(
    ...['-f', 'lavfi', '-i', 'sine=duration=2', '-i', join(archive.folder, 'cover.jpg')],
    ...['-map', '0', '-map', '1', '-c:a', 'libmp3lame', '-disposition:v', 'attached_pic'],
    'song.mp3',
  );
  // Red, then blue.
  ffmpeg(
    ...['-f', 'lavfi', '-i', 'color=c=0xc02020:size=160x90:rate=25:duration=2'],
    ...['-f', 'lavfi', '-i', 'color=c=0x2020c0:size=160x90:rate=25:duration=2'],
    ...['-filter_complex', '[0][1]concat=n=2:v=1:a=0', '-c:v', 'mpeg4', 'two.avi'],
  );
  // Four scenes; the same smaller, coded otherwise and cut; and four others.
  const scenes = (...of: string[]): string[] => [
    ...of.flatMap((one) => ['-f', 'lavfi', '-t', '3', '-i', one]),
    ...[
      '-filter_complex',
      `${of.map((_, at) => `[${at}]scale=320:180,setsar=1,fps=25[v${at}];`).join('')}${of.map((_, at) => `[v${at}]`).join('')}concat=n=${of.length}:v=1:a=0`,
    ],
  ];
  ffmpeg(
    ...scenes(
      'testsrc2=size=320x180:rate=25',
      'mandelbrot=size=320x180:rate=25',
      'smptehdbars=size=320x180:rate=25',
      'rgbtestsrc=size=320x180:rate=25',
    ),
    ...['-c:v', 'libx264', 'scenes.mp4'],
  );
  ffmpeg(
    ...['-ss', '1.7', '-t', '8.5', '-i', join(source, 'scenes.mp4'), '-vf', 'scale=200:112'],
    ...['-c:v', 'mpeg4', '-q:v', '6', 'trimmed.mov'],
  );
  ffmpeg(
    ...scenes(
      'pal75bars=size=320x180:rate=25',
      'yuvtestsrc=size=320x180:rate=25',
      'cellauto=size=320x180:rate=25:rule=30',
      'life=size=320x180:rate=25:mold=10:ratio=0.3',
    ),
    ...['-c:v', 'libx264', 'others.mp4'],
  );
  const place = await placeNamed(archive, 'Made');
  // A file that is laid aside for a moment is nobody's change.
  await setPlace(archive.house, place.id, { watched: false });
  await bringIn(archive, source, { mode: 'copy', place });
}, 180_000);

describe('pictures', () => {
  it('that move are told, and shown as they are; others are not sent whole', async () => {
    for (const name of ['moving.gif', 'moving.png']) {
      const { id, technical } = await itemNamed(name);
      expect([name, technical.frames]).toEqual([name, 10]);
      const sent = await sendDrawing(archive.house, HOUSE, request, id);
      expect((await sent.arrayBuffer()).byteLength).toBe(statSync(join(source, name)).size);
      expect(sent.headers.get('content-security-policy')).toContain('sandbox');
    }
    const { id } = await itemNamed('clear.png');
    await expect(sendDrawing(archive.house, HOUSE, request, id)).rejects.toMatchObject({
      code: 'not-found',
    });
  });

  it('say whether something shows through', async () => {
    expect((await itemNamed('clear.png')).technical.transparency).toBe('alpha channel');
    expect((await itemNamed('full.png')).technical.transparency).toBeUndefined();
    expect(await findIds(db(), HOUSE, parseQuery('has transparency'))).toHaveLength(1);
  });

  it('of sound are the cover that lies in it', async () => {
    const [red, green] = await middle(await itemNamed('song.mp3'));
    expect(green! > 120 && red! < 80).toBe(true);
  });
});

describe('a frame', () => {
  it('of footage is chosen for its picture, and given back; a moment that is not there is refused', async () => {
    const item = await itemNamed('two.avi');
    const look = async (): Promise<boolean> => {
      await idle(archive);
      const [red, , blue] = await middle(item);
      return red! > blue!;
    };
    expect(await look()).toBe(true);
    await askForPicture(archive.house, item.id, { moment: 3 });
    expect(await look()).toBe(false);
    // What does not depend on it is not made again.
    const { pictureKey } = await originalOf(db(), item.id);
    expect(pictureKey).toMatch(/-t3000$/);
    expect(existsSync(proxyFile(archive.house, pictureKey, 'footage'))).toBe(true);
    const shown = await showItem(db(), KEEPER, item.id);
    expect(shown.renditions.map(({ recipe }) => recipe)).toContain('proxy');
    await askForPicture(archive.house, item.id, null);
    expect(await look()).toBe(true);
    expect(existsSync(renditionFolder(archive.house, pictureKey))).toBe(false);
    for (const [name, moment] of [
      ['two.avi', 99],
      ['clear.png', 1],
    ] as const)
      await expect(
        askForPicture(archive.house, (await itemNamed(name)).id, { moment }),
      ).rejects.toMatchObject({ code: 'bad-request' });
  });
});

describe('clips', () => {
  it('that show the same are tied, cut and coded otherwise; others are not', async () => {
    const [whole, cut, others] = [
      await itemNamed('scenes.mp4'),
      await itemNamed('trimmed.mov'),
      await itemNamed('others.mp4'),
    ];
    expect(whole!.lineage).toMatchObject([{ kind: 'lookalike of', number: cut!.number }]);
    expect(cut!.lineage).toMatchObject([{ kind: 'lookalike of', number: whole!.number }]);
    expect(others!.lineage).toEqual([]);
  });
});

describe('the cache', () => {
  it('lets go of what was not looked at for the longest, never of small pictures, and makes it anew', async () => {
    const { house } = archive;
    const clear = await itemNamed('clear.png');
    const { pictureKey } = await originalOf(db(), clear.id);
    await tilesState(house, HOUSE, clear.id);
    await idle(archive);
    const shares = await cacheShares(house);
    expect(shares.find(({ recipe }) => recipe === 'tiles')!.bytes).toBeGreaterThan(0);
    const total = shares.reduce((sum, { bytes }) => sum + bytes, 0);
    expect(await trimCache(house, total)).toEqual({ count: 0, bytes: 0 });
    await db()
      .updateTable('rendition')
      .set({ usedAt: new Date('2026-01-01') })
      .execute();
    await noteUse(house, pictureKey, 'large');
    const gone = await trimCache(house, 0.999 * total);
    expect(gone.count).toBeGreaterThan(0);
    expect(existsSync(pictureFile(house, pictureKey, 'large'))).toBe(true);
    await trimCache(house, 1);
    const left = (await cacheShares(house)).map(({ recipe }) => recipe).sort();
    expect(left).toEqual(['film', 'medium', 'small']);
    for (const name of ['large.webp', 'tiles'])
      expect(existsSync(join(renditionFolder(house, pictureKey), name))).toBe(false);
    // A smaller one is sent meanwhile, and nobody keeps it for the large one.
    const sent = await sendPicture(house, request, pictureKey, 'large');
    expect([sent.status, sent.headers.get('cache-control')]).toEqual([200, 'private, no-store']);
    const film = await itemNamed('two.avi');
    await expect(sendMedia(house, HOUSE, request, film.id)).rejects.toMatchObject({
      code: 'not-found',
    });
    await idle(archive);
    expect(existsSync(pictureFile(house, pictureKey, 'large'))).toBe(true);
    expect((await sendMedia(house, HOUSE, request, film.id)).status).toBe(200);
    expect((await tilesState(house, HOUSE, clear.id)).state).toBe('waiting');
  });

  it('leaves an item its picture where its file is away', async () => {
    const { house } = archive;
    const { id } = await itemNamed('full.png');
    const { path, pictureKey } = await originalOf(db(), id);
    renameSync(path, `${path}.away`);
    rmSync(pictureFile(house, pictureKey, 'large'), { force: true });
    expect((await sendPicture(house, request, pictureKey, 'large')).status).toBe(200);
    await askToRemake(house, null);
    await idle(archive);
    expect((await showItem(db(), KEEPER, id)).noPicture).toBeNull();
    renameSync(`${path}.away`, path);
    await sendPicture(house, request, pictureKey, 'large');
    await idle(archive);
    expect(existsSync(pictureFile(house, pictureKey, 'large'))).toBe(true);
  });

  it('is rebuilt where all of it is gone', async () => {
    const { house } = archive;
    rmSync(join(house.folders.cache, 'pictures'), { recursive: true });
    const job = await askToRemake(house, null);
    expect(await askToRemake(house, null)).toBeNull();
    await idle(archive);
    const { state, done } = await db()
      .selectFrom('job')
      .select(['state', 'done'])
      .where('id', '=', job!)
      .executeTakeFirstOrThrow();
    expect([state, done]).toEqual(['done', 9]);
    for (const id of await findIds(db(), HOUSE, parseQuery(''))) {
      const { pictureKey, name } = await originalOf(db(), id);
      expect([name, existsSync(pictureFile(house, pictureKey, 'large'))]).toEqual([name, true]);
    }
  });
});
