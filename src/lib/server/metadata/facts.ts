import { EMPTY_RECORD } from '#core/records/fields';
import {
  recordFromTags,
  tagNumber,
  tagText,
  withSidecar,
  type FileTags,
} from '#core/records/mapping';
import { technicalFromTags, type Technical } from '#core/records/technical';
import { formatOf } from '#core/kinds/kinds';
import { sentenceOf } from '#core/errors';
import type { FileFacts } from '#core/intake/facts';
import { headOf } from '../files/disk';
import { splitPath } from '../files/paths';
import { readLens, readTags, type Lane } from './exiftool';

/** Formats ExifTool has nothing to say about. */
const SILENT = new Set(['text', 'zip']);
/** Formats whose metadata stand at their beginning; of others the whole file is looked through. */
const HEADED = new Set(['jpeg', 'png', 'webp', 'avif', 'heic', 'tiff', 'mp4', 'mov']);

/** px; more than this is what a broken file says of itself. */
const MOST_EDGE = 1_000_000;

const isEdge = (value: number | undefined): value is number =>
  value !== undefined && value > 0 && value <= MOST_EDGE;

/** As ExifTool tells it of every format it knows, turned upright. */
function uprightSize(
  tags: FileTags,
  orientation: number,
): { width: number | null; height: number | null } {
  const [across, down] = tagText(tags, 'Composite:ImageSize').split(/[ x]/).map(Number);
  if (!isEdge(across) || !isEdge(down)) return { width: null, height: null };
  const [width, height] = [Math.round(across), Math.round(down)];
  return orientation >= 5 ? { width: height, height: width } : { width, height };
}

/** Kinds that are so large in pixels before anybody drew them; what is drawn is measured. */
const MEASURED = new Set(['photo', 'footage']);

/**
 * What a file says of itself. A file nobody can read gives its kind and the reason.
 * @param path absolute path text
 * @param sidecar path text of the XMP beside it, whose values go before the file's own
 */
export async function readFacts(
  path: string,
  sidecar: string | null,
  wished: Lane | null = null,
): Promise<FileFacts> {
  const { name } = splitPath(path);
  const { kind, type, key: format } = formatOf(await headOf(path), name);
  // A locked document takes seconds: nobody waits behind it.
  const lane = wished ?? (kind === 'document' ? 'slow' : 'common');
  const plain = { kind, mediaType: type, format, sidecar };
  const nothing = {
    record: EMPTY_RECORD,
    technical: {},
    orientation: 1,
    width: null,
    height: null,
  };
  const isSilent = SILENT.has(format);
  if (isSilent && !sidecar) return { ...plain, ...nothing, problem: null, says: 'all' };
  try {
    const beside = sidecar ? await readTags(sidecar, false, lane) : null;
    const reading = isSilent
      ? Promise.resolve<FileTags>({})
      : readTags(path, HEADED.has(format), lane);
    const own = await reading.catch((error: unknown): FileTags => {
      // What stands beside a file that nobody can read counts all the same.
      if (beside === null) throw error;
      return { 'ExifTool:Error': sentenceOf(error) };
    });
    const problem = own['ExifTool:Error'] === undefined ? null : String(own['ExifTool:Error']);
    const tags = beside ? withSidecar(own, beside) : own;
    const stated = tagNumber(own, 'IFD0:Orientation') ?? 1;
    const orientation = stated >= 1 && stated <= 8 ? stated : 1;
    const size = MEASURED.has(kind) ? uprightSize(own, orientation) : { width: null, height: null };
    return {
      ...plain,
      record: recordFromTags(tags),
      technical: await withLens(path, own, technicalFromTags(tags)),
      orientation,
      ...size,
      problem,
      says: problem === null ? 'all' : beside ? 'beside' : 'nothing',
    };
  } catch (error) {
    return { ...plain, ...nothing, problem: sentenceOf(error), says: 'nothing' };
  }
}

/** Tags that tell of a lens, by number or name, in makers' own notes too. */
const LENS_TAG = /:(Lens(Type\d?|ID|Spec|Info|Model)?|DNGLensInfo)$/;

/** A lens that the file names by its maker's number only, or in an older home, gets the name that ExifTool knows for it. */
async function withLens(path: string, tags: FileTags, technical: Technical): Promise<Technical> {
  if (technical.lens || !Object.keys(tags).some((tag) => LENS_TAG.test(tag))) return technical;
  const lens = await readLens(path);
  return lens ? { ...technical, lens } : technical;
}
