import { z } from 'zod';

/** Something a file says of a stretch of its time, in seconds. */
const said = z.object({ from: z.number(), to: z.number(), text: z.string() });
export type Said = z.infer<typeof said>;

/** What one needs to look closely at footage or sound; as it lies beside its pictures. */
export const FILM_VERSION = 2;
export const filmSchema = z.object({
  /** What is read of a clip grew; one that was read before is read again. */
  version: z.number().default(1),
  /** seconds */
  duration: z.number(),
  /** Seconds after the beginning at which the first frame is shown: sound may begin before it. */
  first: z.number().default(0),
  /** When frames are shown, seconds from the first: evenly, or each for itself. Null for sound. */
  frames: z
    .union([
      z.object({ count: z.number(), step: z.number() }),
      z.object({ count: z.number(), times: z.array(z.number()) }),
    ])
    .nullable(),
  /** Frames side by side in one picture: rows from the left, spread evenly over the length. Null where there are none. */
  strip: z
    .object({ count: z.number(), columns: z.number(), width: z.number(), height: z.number() })
    .nullable(),
  /** Seconds at which another scene begins. */
  scenes: z.array(z.number()),
  /** Stretches that are black, seconds. */
  black: z.array(z.tuple([z.number(), z.number()])).default([]),
  chapters: z.array(said).default([]),
  /** Sentences of the first track of subtitles. */
  subtitles: z.array(said).default([]),
  /** How loud it is every so many seconds: bytes in base64, dB below full scale. Null where there is no sound. */
  levels: z.object({ step: z.number(), below: z.string() }).nullable().default(null),
  /** Stretches of the drawn sound; 0 where there is none. */
  peaks: z.number(),
});
export type Film = z.infer<typeof filmSchema>;
