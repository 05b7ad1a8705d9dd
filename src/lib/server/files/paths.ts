import { realpath } from 'node:fs/promises';
import { ArchiveError } from '#core/errors';
import { isInside } from '#core/holdings/grounds';

/**
 * Paths are bytes first. Linux names may hold any byte but `/` and NUL; the database and the interface hold
 * text. A byte that is not valid UTF-8 is kept as one character of the private-use block U+F700–U+F7FF;
 * that block's own characters are kept byte by byte the same way, so that the text leads back to the exact bytes.
 */
const ESCAPE = 0xf700;
const decoder = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
const isEscape = (code: number): boolean => code >= ESCAPE && code <= ESCAPE + 0xff;

/** Bytes of a path as text that leads back to them. */
export function textOfPath(bytes: Buffer): string {
  try {
    const text = decoder.decode(bytes);
    if (!/[\uf700-\uf7ff]/.test(text)) return text;
  } catch {
    // Not UTF-8 throughout: below, byte by byte where needed.
  }
  let text = '';
  for (let at = 0; at < bytes.length;) {
    const length = [1, 2, 3, 4].find((size) => isCharacter(bytes.subarray(at, at + size), size));
    if (length === undefined) {
      text += String.fromCharCode(ESCAPE + bytes[at]!);
      at += 1;
    } else {
      text += bytes.toString('utf8', at, at + length);
      at += length;
    }
  }
  return text;
}

function isCharacter(bytes: Buffer, size: number): boolean {
  if (bytes.length < size) return false;
  try {
    const text = decoder.decode(bytes);
    return [...text].length === 1 && !isEscape(text.charCodeAt(0));
  } catch {
    return false;
  }
}

/** Whether the text of a path is the path as systems take it: none of its bytes stands for another. */
export const isPlainPath = (text: string): boolean => !/[\uf700-\uf7ff]/.test(text);

/** The bytes a path's text stands for. */
export function bytesOfPath(text: string): Buffer {
  if (isPlainPath(text)) return Buffer.from(text, 'utf8');
  return Buffer.concat(
    [...text].map((character) => {
      const code = character.charCodeAt(0);
      return isEscape(code) ? Buffer.from([code - ESCAPE]) : Buffer.from(character, 'utf8');
    }),
  );
}

/** Join path texts with single slashes; empty parts vanish. */
export function joinPath(...parts: string[]): string {
  let joined = '';
  for (const part of parts) if (part !== '') joined = joined === '' ? part : `${joined}/${part}`;
  return joined.includes('//') ? joined.replace(/\/{2,}/g, '/') : joined;
}

/** The folder and name of a path text. */
export function splitPath(path: string): { folder: string; name: string } {
  const slash = path.lastIndexOf('/');
  return slash < 0
    ? { folder: '', name: path }
    : { folder: path.slice(0, slash), name: path.slice(slash + 1) };
}

/**
 * Refuse a relative path that would leave its place by its own words.
 * @throws ArchiveError outside-place
 */
export function checkRelative(path: string): string {
  const parts = path.split('/');
  if (
    path.startsWith('/') ||
    path.includes('\0') ||
    parts.some((part) => part === '..' || part === '.')
  )
    throw new ArchiveError('outside-place', `“${path}” leads outside its place.`, { path });
  return path;
}

/**
 * Resolve every link and hold the path inside a root.
 * @returns the real path
 * @throws ArchiveError outside-place, not-found
 */
export async function realInside(path: string, root: string): Promise<string> {
  try {
    const real = textOfPath(await realpath(bytesOfPath(path), { encoding: 'buffer' }));
    const realRoot = textOfPath(await realpath(bytesOfPath(root), { encoding: 'buffer' }));
    if (!isInside(real, realRoot))
      throw new ArchiveError('outside-place', `“${path}” leads outside “${root}”.`, { path, root });
    return real;
  } catch (error) {
    if (error instanceof ArchiveError) throw error;
    throw new ArchiveError('not-found', `“${path}” is not there.`, { path }, { cause: error });
  }
}

/** Absolute path text of a file. */
export function pathOf(place: { root: string }, folder: string, name: string): string {
  return joinPath(place.root, folder, name);
}
