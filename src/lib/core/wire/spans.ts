import { z } from 'zod';
import { LAST_FRAME, MOST_SPANS } from '../footage/span';
import type { Clock } from '../footage/moments';
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
  scene: string;
  shot: string;
  take: string;
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
const MOST_AT_ONCE = 500;
export const newSpansSchema = z.object({ spans: z.array(spanSchema).min(1).max(MOST_AT_ONCE) });

/** Fields that are counted up. */
export const COUNTED = ['shotScene', 'shot', 'take'] as const;
const id = z.uuid();
const ids = z.array(id).min(1).max(MOST_SPANS);
/** What is done to spans of a clip. */
export const spansDeedSchema = z.discriminatedUnion('does', [
  z.object({ does: z.literal('drop'), ids }),
  /** Scene, shot or take, counted up from one to the next in the order of ids: `7`, `A-07`. */
  z.object({
    ...{ does: z.literal('count'), ids, field: z.enum(COUNTED) },
    from: z.string().trim().min(1).max(200),
  }),
  z.object({ does: z.literal('mark'), ids, mark: markSchema }),
  /** One from the first's beginning to the last's end, with the record of the first. */
  z.object({ does: z.literal('join'), ids }),
  /** Two: the second begins at a frame, with the same record. */
  z.object({ does: z.literal('split'), id, at: frame }),
  z.object({
    does: z.literal('offset'),
    ids,
    by: z.number().int().min(-LAST_FRAME).max(LAST_FRAME),
  }),
  /** Into the XMP of their clip, embedded or beside it as its place says. */
  z.object({ does: z.literal('write'), id }),
  /** The same moments in another clip. */
  z.object({ does: z.literal('copy'), ids, to: id }),
]);
export type SpansDeed = z.output<typeof spansDeedSchema>;
export interface SpansDone {
  /** Spans there are now because of it. */
  ids: string[];
  /** Spans that were taken in hand. */
  count: number;
  operation: string | null;
}

/** A clip that runs at the same moment. */
export interface OtherClip {
  id: string;
  number: string;
  name: string;
  by: Clock;
  /** Seconds it begins later; below 0: earlier. */
  later: number;
}

/** What changes of a span; frames as they are to be, from the first to before the last. */
export const spanChangeSchema = z.object({
  from: frame.optional(),
  to: frame.optional(),
  mark: markSchema.optional(),
  /** Where it lay when it was looked at: another's change meanwhile is not overwritten. */
  seen: z.object({ from: frame, to: frame }).optional(),
});
export type SpanChange = z.output<typeof spanChangeSchema>;
