import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import type { RenameLine } from './rename';

/** What of a line is done. */
type Done = Pick<RenameLine, 'id' | 'folder' | 'before' | 'after' | 'followers'>;

const CHUNK = 2000;

/** All that a rename would do, in a few characters, the same wherever it is reckoned: SHA-256 over lines of JSON. */
export function fingerprintOf(lines: readonly Done[]): string {
  const hash = sha256.create();
  const encoder = new TextEncoder();
  for (let from = 0; from < lines.length; from += CHUNK) {
    let text = '';
    for (const { id, folder, before, after, followers } of lines.slice(from, from + CHUNK))
      text += `${JSON.stringify([id, folder, before, after, ...followers.map((one) => [one.id, one.before, one.after])])}\n`;
    hash.update(encoder.encode(text));
  }
  return bytesToHex(hash.digest());
}
