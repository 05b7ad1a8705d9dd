import { z } from 'zod';
import { LONGEST_PATTERN } from './grammar';
import { MOST_MOVED, ORDERS } from './order';
import { MISSING_RULES } from './filing';
import { CLASH_RULES } from './rename';

/** How names are given, as it is asked for from outside. */
export const patternSchema = z.string().min(1).max(LONGEST_PATTERN);
export const orderSchema = z.object({
  by: z.enum(ORDERS),
  down: z.boolean(),
  moved: z
    .array(z.object({ id: z.uuid(), before: z.uuid().nullable() }))
    .max(MOST_MOVED, `more than ${MOST_MOVED} moves by hand; sort them first`),
});
export const namingSchema = z.object({
  pattern: patternSchema,
  clash: z.enum(CLASH_RULES),
  extension: z.enum(['keep', 'lower', 'pattern']),
  order: orderSchema.optional(),
});
export type NamingChoices = z.infer<typeof namingSchema>;

/** How names were given last, as far as that is still understood. */
export const lastUsed = (remembered: unknown): Partial<NamingChoices> =>
  namingSchema.omit({ order: true }).partial().safeParse(remembered).data ?? {};

/** How files are filed, as it is asked for from outside. */
export const filingSchema = z.object({
  /** Files stay, and verified copies are laid there instead. */
  copies: z.boolean().default(false),
  pattern: z.string().max(LONGEST_PATTERN),
  missing: z.enum(MISSING_RULES),
  fallback: z.string().max(200),
  into: z.object({ placeId: z.uuid(), path: z.string().max(1000) }).nullable(),
  naming: z
    .object({ pattern: patternSchema, extension: z.enum(['keep', 'lower', 'pattern']) })
    .optional(),
  clash: z.enum(CLASH_RULES),
  removeEmptied: z.boolean(),
});
export type FilingChoices = z.infer<typeof filingSchema>;

/** How files were filed last. */
export const filedLast = (remembered: unknown): Partial<FilingChoices> =>
  filingSchema.omit({ copies: true, into: true, naming: true }).partial().safeParse(remembered)
    .data ?? {};
