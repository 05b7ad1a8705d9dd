/**
 * Why a file has no picture, in plain words, from what a library or tool complained. The complaint itself is kept
 * beside it for whoever wants to know more.
 */
const PLAIN: [RegExp, string][] = [
  [/pixel limit|more pixels/i, 'It has more pixels than we open.'],
  [
    /premature end|truncated|ended prematurely|(unexpected |)end of (file|stream|image|data)|out of order|bad seek|no frames|contains no image/i,
    'The file ends too early: part of it is missing.',
  ],
  [/longer than|timed? ?out|timeout/i, 'Making its picture took too long; it was given up.'],
  [/memory|alloc/i, 'Making its picture asks for too much memory; it was given up.'],
  [/not installed/i, 'The tool that reads such files is not installed on the server.'],
  [/unsupported image format|unsupported/i, 'It is of a kind that cannot be pictured here.'],
];

/** What a tool said of a page or drawing, without the markup it quotes. */
export const withoutMarkup = (text: string): string =>
  text
    .replace(/<[^<>]{0,2000}>/g, ' ')
    .replace(/\s+/g, ' ')
    .trim();

export const DAMAGED = 'It is damaged, or not what it says it is.';

export const plainReason = (complaint: string): string =>
  PLAIN.find(([pattern]) => pattern.test(complaint))?.[1] ?? DAMAGED;
