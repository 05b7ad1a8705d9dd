const encoder = new TextEncoder();
/** What a file name may take on the disks we know. */
const LONGEST_PART = 255;
const DEEPEST = 32;

/** Cut to a number of bytes without splitting a character, keeping the extension. */
function cutPart(part: string): string {
  if (encoder.encode(part).length <= LONGEST_PART) return part;
  const dot = part.lastIndexOf('.');
  const extension = dot > 0 && part.length - dot <= 12 ? part.slice(dot) : '';
  let stem = part.slice(0, part.length - extension.length);
  while (encoder.encode(stem + extension).length > LONGEST_PART)
    stem = [...stem].slice(0, -1).join('');
  return stem + extension;
}

/**
 * The path a browser tells for an upload (`Wind Week/a.jpg`), made safe to be created below a folder of ours:
 * it cannot leave it, every part is a name, nothing is longer than a disk takes. Anything may be told here.
 */
export function uploadPath(told: string): string {
  const parts = told
    .replaceAll('\\', '/')
    .split('/')
    .map((part) => part.replaceAll('\0', '').trim())
    .filter((part) => part !== '' && part !== '.' && part !== '..');
  const kept = parts
    .slice(-DEEPEST)
    .map((part) => part.toWellFormed())
    // Hidden folders are never looked into: what somebody sends in one comes out of hiding.
    .map((part, at, all) => cutPart(at < all.length - 1 ? part.replace(/^\.+/, '_') : part));
  return kept.join('/') || 'unnamed';
}
