import { z } from 'zod';
import { LAST_FRAME } from '../footage/span';
import { MARKS, type Mark } from '../footage/marks';

/** A span or marker as the log shows it. */
export interface ShownSpan {
  id: string;
  number: string;
  from: number;
  to: number;
  isMarker: boolean;
  mark: Mark | '';
  /** Version of its record. */
  version: number;
  title: string;
  note: string;
  rating: number;
  stage: string;
  terms: string[];
  creator: string[];
}

const frame = z.number().int().min(0).max(LAST_FRAME);
export const markSchema = z.enum(['', ...MARKS]);
/** What is kept: frames as they were set, in whichever order, both part of it. */
export const spanSchema = z.object({
  first: frame,
  last: frame,
  isMarker: z.boolean().default(false),
  mark: markSchema.default(''),
  title: z.string().trim().max(2000).default(''),
  note: z.string().trim().max(20_000).default(''),
});
export type NewSpan = z.output<typeof spanSchema>;
/** Kept by one request: of more the command line takes care. */
const MOST_AT_ONCE = 200;
export const newSpansSchema = z.object({ spans: z.array(spanSchema).min(1).max(MOST_AT_ONCE) });

/** What changes of a span; frames as they are to be, from the first to before the last. */
export const spanChangeSchema = z.object({
  from: frame.optional(),
  to: frame.optional(),
  mark: markSchema.optional(),
  /** Where it lay when it was looked at: another's change meanwhile is not overwritten. */
  seen: z.object({ from: frame, to: frame }).optional(),
});
export type SpanChange = z.output<typeof spanChangeSchema>;
