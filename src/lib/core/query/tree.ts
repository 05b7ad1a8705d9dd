import { z } from 'zod';
import { KINDS } from '../kinds/kinds';

/** Fields a query can ask to be empty. */
export const LACKABLE = [
  'title',
  'caption',
  'creator',
  'credit',
  'copyright',
  'terms',
  'date',
  'place',
] as const;
export type Lackable = (typeof LACKABLE)[number];

export const ORDERS = ['taken', 'name', 'rating', 'brought', 'size', 'title', 'hand'] as const;
export type OrderKey = (typeof ORDERS)[number];

/**
 * The query: conditions that all hold. Each is one clause of the sentence. Its compact text is read and
 * written by ./grammar; its English by ./sentence.
 */
export const querySchema = z.object({
  kinds: z.array(z.enum(KINDS)).optional(),
  /** A place, or a folder in it; `deep` takes all levels below. */
  folder: z.object({ place: z.string(), path: z.string(), deep: z.boolean() }).optional(),
  /** EDTF text; `unknown` for items without a date. */
  taken: z.string().optional(),
  /** Bounds inclusive, −1 is rejected, 0 unrated. */
  rated: z
    .object({ min: z.number().int().min(-1).max(5), max: z.number().int().min(-1).max(5) })
    .optional(),
  /** Any of these; an empty text is "no stage". */
  stages: z.array(z.string()).optional(),
  /** All of these, narrower ones included. */
  terms: z.array(z.string()).optional(),
  /** All of these are empty. */
  lacking: z.array(z.enum(LACKABLE)).optional(),
  /** Words or beginnings of words, all of them. */
  words: z.string().optional(),
  /** `2026.014` */
  accession: z.string().optional(),
  /** `2026.014.0237` */
  number: z.string().optional(),
  /** Name of a collection. */
  collection: z.string().optional(),
  order: z.object({ by: z.enum(ORDERS), down: z.boolean() }),
});

export type Query = z.infer<typeof querySchema>;
export type ClauseField = Exclude<keyof Query, 'order'>;

export const DEFAULT_ORDER: Query['order'] = { by: 'taken', down: true };
export const EVERYTHING: Query = { order: DEFAULT_ORDER };

/** The query without one clause: what its choices are counted against. */
export function without(query: Query, field: ClauseField): Query {
  return { ...query, [field]: undefined };
}
