import { mkdirSync, writeFileSync } from 'node:fs';
import { execFileSync } from 'node:child_process';
import { dirname } from 'node:path';
import sharp from 'sharp';
import { exiftoolPath } from 'exiftool-vendored';
import { IPTC_OLDER } from '#core/fields/namespaces';

/** A small JPEG that differs from every other by its seed. */
export async function jpeg(seed: number, width = 96, height = 64): Promise<Buffer> {
  const pixels = Buffer.alloc(width * height * 3);
  for (let at = 0; at < pixels.length; at += 1)
    pixels[at] = (at * (7 + (seed % 13)) + seed * 31) & 255;
  return sharp(pixels, { raw: { width, height, channels: 3 } })
    .jpeg({ quality: 90 })
    .toBuffer();
}

/** Write a JPEG with camera metadata. */
export async function writeJpeg(
  path: string,
  seed: number,
  tags: Record<string, string> = {},
): Promise<void> {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, await jpeg(seed));
  await setTags(path, tags);
}

/** What exiv2 calls a tag of the namespace of the standard's older fields. */
export const older = (tag: string): string => `Xmp.${IPTC_OLDER.replace('XMP-', '')}.${tag}`;

/** Set tags from outside, as another program would. */
export async function setTags(path: string, tags: Record<string, string>): Promise<void> {
  if (Object.keys(tags).length === 0) return;
  const args = Object.entries(tags).map(([name, value]) => `-${name}=${value}`);
  execFileSync(await exiftoolPath(), [
    '-q',
    '-overwrite_original',
    '-charset',
    'iptc=utf8',
    ...args,
    path,
  ]);
}

/** What exiv2 reads: `Xmp.dc.title` → text. Another tool than the one that writes. */
export function exiv2(path: string): Record<string, string> {
  const out = execFileSync('exiv2', ['-q', '-Pkt', path], { encoding: 'utf8' });
  const found: Record<string, string> = {};
  for (const line of out.split('\n')) {
    const match = /^(\S+)\s+(.*)$/.exec(line);
    if (!match) continue;
    const [, key, value] = match as unknown as [string, string, string];
    found[key] = found[key] === undefined ? value.trim() : `${found[key]}, ${value.trim()}`;
  }
  return found;
}

/** The decoded pixels, for telling whether a picture is the same to the bit. */
export const pixelsOf = (path: string): Promise<Buffer> => sharp(path).raw().toBuffer();

/** A sidecar as any program may write it: RDF/XML (XMP part 1, 7), its wrapper left out as is allowed there. */
export const xmpSidecar = (descriptions = ''): string =>
  `<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">${descriptions}</rdf:RDF>`;
