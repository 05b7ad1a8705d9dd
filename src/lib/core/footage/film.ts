import { z } from 'zod';

/** What one needs to look closely at footage or sound; as it lies beside its pictures. */
export const filmSchema = z.object({
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
  /** Stretches of the drawn sound; 0 where there is none. */
  peaks: z.number(),
});
export type Film = z.infer<typeof filmSchema>;
