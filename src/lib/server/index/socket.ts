import { createHash } from 'node:crypto';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { House } from '../house/house';

/** A socket's path holds 108 bytes at most (unix(7)); home folders may lie deeper. */
export function socketOf({ folders, settings }: House): string {
  const own = join(folders.work, 'index.sock');
  if (Buffer.byteLength(own) < 100) return own;
  const name = createHash('sha256').update(settings.home).digest('hex').slice(0, 24);
  return join(tmpdir(), `mindful-${name}.sock`);
}
