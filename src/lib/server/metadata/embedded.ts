import { mkdtemp, readFile, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { withToolPath } from '../files/open';
import { extractBinary } from './exiftool';

/** Largest first: cameras embed a full-size JPEG, a screen-size one, or only a small one. */
const TAGS = ['JpgFromRaw', 'PreviewImage', 'OtherImage', 'ThumbnailImage'];
/** A preview smaller than this is a postage stamp. */
const WORTH_SHOWING = 40_000;

/** The largest JPEG embedded in a camera raw file; null where there is none worth showing. */
export async function exiftoolPreview(path: string): Promise<Buffer | null> {
  const folder = await mkdtemp(join(tmpdir(), 'mindful-preview-'));
  try {
    return await withToolPath(path, async (plain) => {
      for (const tag of TAGS) {
        const target = join(folder, tag);
        const isThere = await extractBinary(tag, plain, target);
        if (isThere && (await stat(target)).size >= WORTH_SHOWING) return readFile(target);
      }
      return null;
    });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
