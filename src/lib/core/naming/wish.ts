import { z } from 'zod';
import { LONGEST_PATTERN } from './grammar';
import { MOST_MOVED, ORDERS } from './order';
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
