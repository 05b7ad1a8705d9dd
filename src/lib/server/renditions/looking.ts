import { mkdtemp, readFile, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import pLimit from 'p-limit';
import { ArchiveError } from '#core/errors';
import type { Viewer } from '#core/sight/viewer';
import { FILM_VERSION, filmSchema, type Film } from '#core/footage/film';
import { formatByKey, moves } from '#core/kinds/kinds';
import type { Exposure } from '#core/pixels/measure';
import { apart, runApart } from '../apart/apart';
import { sendFile } from '../edge/send';
import { isThere } from '../files/disk';
import { withToolPath } from '../files/open';
import type { LocatedFile } from '../files/located';
import { fileFor } from '../sight/files';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import { enqueue } from '../jobs/queue';
import { runTool } from '../tools/run';
import type { drawSpecimenText } from './drawing';
import { noteUse } from './cache';
import { pictureSourceOf } from './pictures';
import { withPrepared } from './prepared';
import type { measureRegion, renderSizes } from './render';
import { filmFile, makeRenditionFolder, noteRenditions, pageFile } from './store';
import { rendered } from './turns';

/** What the Close view asks for beyond the pictures: made when asked, in tools and processes, never here. */
const REGION = apart<typeof measureRegion>('renditions/render', 'measureRegion', 'pictures');
const SIZES = apart<typeof renderSizes>('renditions/render', 'renderSizes', 'pictures');
const SPECIMEN = apart<typeof drawSpecimenText>('renditions/drawing', 'drawSpecimenText');
const SECONDS = 30;
const PAGE_EDGE = 2048;
/** Pages are made two at a time: who leafs fast is served in order. */
const pages = pLimit(2);

/** What was read of an item's footage or sound; null while it is not, and then it is asked for. */
export async function filmOf(house: House, viewer: Viewer, itemId: string): Promise<Film | null> {
  const file = await fileFor(house.db, viewer, itemId, 'play');
  if (file.kind !== 'footage' && file.kind !== 'sound') throw doesNot('play');
  const text = await readFile(filmFile(house, file.pictureKey, 'film'), 'utf8').catch(() => null);
  const film = text === null ? null : filmSchema.parse(JSON.parse(text));
  if (film && film.version >= FILM_VERSION) return film;
  const title = `Reading frames and sound of ${file.name}`;
  const failed = await house.db
    .selectFrom('job')
    .select('id')
    .where('itemId', '=', file.itemId)
    .where('task', '=', 'film')
    .where('state', '=', 'failed')
    .executeTakeFirst();
  // What failed is not tried again by looking at it.
  if (!failed)
    await enqueue(house.db, [{ task: 'film', title, subject: file.itemId, itemId: file.itemId }]);
  return film;
}

const doesNot = (what: string): ArchiveError =>
  new ArchiveError('not-found', `This item does not ${what}.`);

export async function sendFilmPart(
  house: House,
  viewer: Viewer,
  request: Request,
  itemId: string,
  part: 'strip' | 'peaks',
): Promise<Response> {
  const { pictureKey } = await fileFor(house.db, viewer, itemId, 'play');
  const type = part === 'strip' ? 'image/jpeg' : 'application/octet-stream';
  return sendFile(request, filmFile(house, pictureKey, part), { type });
}

async function fileToLookAt(
  house: House,
  viewer: Viewer,
  itemId: string,
  look: string,
): Promise<LocatedFile> {
  const file = await fileFor(house.db, viewer, itemId, 'play');
  if (formatByKey(file.format).look !== look) throw doesNot(`have ${look}`);
  return file;
}

/** One page of a document or of a picture of several, from 1. */
export async function sendPage(
  house: House,
  viewer: Viewer,
  request: Request,
  itemId: string,
  page: number,
): Promise<Response> {
  const file = await fileToLookAt(house, viewer, itemId, 'pages');
  const target = pageFile(house, file.pictureKey, page);
  const isMade = (): Promise<boolean> => isThere(target);
  const recipe = `page-${page}`;
  if (await isMade()) await noteUse(house, file.pictureKey, recipe);
  else
    await pages(async () => {
      if (await isMade()) return;
      await makeRenditionFolder(house, file.pictureKey);
      const folder = await mkdtemp(join(house.folders.work, 'page-'));
      try {
        const size = { edge: PAGE_EDGE, quality: 84, effort: 1, run: newId() };
        const made = join(folder, 'page.webp');
        const sizes = [{ ...size, target: made }];
        if (file.format === 'pdf') {
          const base = join(folder, 'page');
          const which = ['-f', String(page), '-l', String(page), '-singlefile'];
          await withToolPath(file.path, (plain) =>
            runTool('pdftoppm', [...which, '-scale-to', String(PAGE_EDGE), '-png', plain, base], {
              seconds: SECONDS,
            }),
          );
          await rendered(SIZES, { path: `${base}.png`, turn: 1, sizes }, SECONDS);
        } else
          await withToolPath(file.path, (plain) =>
            rendered(SIZES, { path: plain, turn: null, page: page - 1, sizes }, SECONDS),
          );
        await rename(made, target);
        const { size: bytes } = await stat(target);
        await noteRenditions(house, file.pictureKey, [{ recipe, bytes }]);
      } finally {
        await rm(folder, { recursive: true, force: true });
      }
    });
  return sendFile(request, target, { type: 'image/webp', forever: true });
}

const MOST_TEXT = 16 << 20;
export interface PageHits {
  page: number;
  /** A line that holds it. */
  line: string;
  count: number;
}

/** Pages of a PDF that hold some words, with the first line that does. */
export async function findInPages(
  house: House,
  viewer: Viewer,
  itemId: string,
  wished: string,
): Promise<PageHits[]> {
  const file = await fileToLookAt(house, viewer, itemId, 'pages');
  if (file.format !== 'pdf') return [];
  const text = await withToolPath(file.path, (plain) =>
    runTool('pdftotext', ['-enc', 'UTF-8', plain, '-'], { seconds: SECONDS, output: MOST_TEXT }),
  );
  const plain = (own: string): string =>
    own.normalize('NFKD').replace(/\p{M}/gu, '').replace(/\s+/g, ' ').toLowerCase();
  const needle = plain(wished.trim());
  if (!needle) return [];
  return text
    .toString()
    .split('\f')
    .flatMap((own, at): PageHits[] => {
      const count = plain(own).split(needle).length - 1;
      const line = own.split('\n').find((one) => plain(one).includes(needle)) ?? '';
      return count > 0 ? [{ page: at + 1, line: line.trim().slice(0, 160), count }] : [];
    })
    .slice(0, 500);
}

/** A line in a font's own letters, as an SVG of outlines. */
export async function specimen(
  house: House,
  viewer: Viewer,
  itemId: string,
  text: string,
): Promise<string> {
  const file = await fileToLookAt(house, viewer, itemId, 'specimen');
  return runApart(SPECIMEN, { path: file.path, text }, SECONDS);
}

/** The drawing or the moving picture itself: browsers run and fetch nothing of what is shown as a picture. */
export async function sendDrawing(
  house: House,
  viewer: Viewer,
  request: Request,
  itemId: string,
): Promise<Response> {
  const file = await fileFor(house.db, viewer, itemId, 'play');
  const { technical } = await house.db
    .selectFrom('item')
    .select('technical')
    .where('id', '=', file.itemId)
    .executeTakeFirstOrThrow();
  if (formatByKey(file.format).look !== 'drawing' && !moves(file.format, technical.frames))
    throw doesNot('have drawing');
  return sendFile(request, file.path, { type: file.mediaType });
}

/** A part of a picture: 0 … 1 of its width and height, upright. */
export interface Region {
  left: number;
  top: number;
  width: number;
  height: number;
}
export interface Measured {
  sharpness: number;
  exposure: Exposure;
}

/** How sharp and bright a part of a photo is, at its own pixels. */
export async function measured(
  house: House,
  viewer: Viewer,
  itemId: string,
  region: Region,
): Promise<Measured> {
  const file = await fileFor(house.db, viewer, itemId, 'play');
  return withPrepared(pictureSourceOf(house, file), (from) =>
    rendered(REGION, { ...from, region }, SECONDS),
  );
}
