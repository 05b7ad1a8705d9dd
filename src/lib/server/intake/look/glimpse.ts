import { apart, runApart } from '../../apart/apart';
import type { embeddedPreview } from './glance';

const SECONDS = 8;
const GLIMPSE = apart<typeof embeddedPreview>('intake/look/glance', 'embeddedPreview');

/**
 * The small picture a camera put into a file of a source, while nobody has looked at it closely.
 * @returns WebP; null where there is none, or none can be had just now
 */
export async function glimpseOf(path: string): Promise<Uint8Array | null> {
  try {
    return await runApart(GLIMPSE, path, SECONDS);
  } catch {
    return null;
  }
}
