import { z } from 'zod';
import { LONGEST_QUERY } from './tree';

/** As many items as one step takes in hand; more are refused in words. */
export const MOST_PICKED = 100_000;
const TOO_MANY = 'more than 100,000 items at once; narrow the choice and go step by step';

/** What is chosen: items one by one, or all that a query finds but some. */
export const pickedSchema = z.union([
  z.array(z.uuid()).min(1).max(MOST_PICKED, TOO_MANY),
  z
    .object({
      /** Compact text. */
      q: z.string().max(LONGEST_QUERY),
      except: z.array(z.uuid()).max(MOST_PICKED, TOO_MANY).default([]),
    })
    .strict(),
]);
export type Picked = z.infer<typeof pickedSchema>;
