import { z } from 'zod';
import { STAGE_COLOURS, STAGE_SHAPES } from '../stages/stages';
import { LABEL_KINDS, WAYS } from './entries';
import { LONGEST_LABEL, LONGEST_NOTE, MOST_BROADER, MOST_LABELS, MOST_LINES } from './limits';

/** What entries of lists may be, as they come from outside. */
const text = (most: number) => z.string().trim().max(most);
const name = (most: number) => text(most).min(1, 'Give it a name');
const ids = (most: number) =>
  z
    .array(z.uuid())
    .max(most)
    .transform((list) => [...new Set(list)].sort());

const stage = {
  name: name(200),
  shape: z.enum(STAGE_SHAPES),
  colour: z.enum(STAGE_COLOURS),
  key: z
    .string()
    .regex(/^[a-z]$/, 'A stage’s key is a letter')
    .nullable(),
  retired: z.boolean(),
};
export const stageWishSchema = z.object(stage);
export const stageSchema = z.object({
  ...stage,
  key: z.string().nullable(),
  position: z.number().int(),
  formerly: z.array(z.string().max(200)).max(1000),
});

const labelSchema = z.object({
  kind: z.enum(LABEL_KINDS),
  lang: z
    .string()
    .trim()
    .regex(/^([A-Za-z]{2,3}(-[A-Za-z0-9]{2,8})*)?$/, 'A language reads like de or pt-BR'),
  label: name(LONGEST_LABEL),
});
export const termSchema = z.object({
  label: name(LONGEST_LABEL),
  labels: z.array(labelSchema).max(MOST_LABELS),
  broader: ids(MOST_BROADER),
  related: ids(MOST_BROADER),
  note: text(LONGEST_NOTE),
  retired: z.boolean(),
});

export const contributorSchema = z.object({
  name: name(500),
  kind: z.enum(['person', 'agency']),
  also: z
    .array(name(500))
    .max(50)
    .transform((list) => [...new Set(list)]),
  creditLine: text(2000),
  copyrightNotice: text(4000),
  usageTerms: text(2000),
  email: text(200),
  phone: text(100),
  web: text(1000),
  note: text(LONGEST_NOTE),
  retired: z.boolean(),
});

export const spotSchema = z.object({
  name: name(200),
  latitude: z.number().min(-90).max(90),
  longitude: z.number().min(-180).max(180),
  radius: z.number().min(1, 'A radius is a metre at least').max(500_000),
  sublocation: text(500),
  city: text(500),
  state: text(500),
  country: text(500),
  note: text(LONGEST_NOTE),
});

export const stampSchema = z.object({
  name: name(200),
  project: text(200),
  lines: z
    .array(
      z.object({
        field: z.string().max(60),
        way: z.enum(WAYS),
        value: z.union([
          z.string().max(20_000),
          z.array(name(500)).max(500),
          z.number().int().min(-1).max(5),
        ]),
      }),
    )
    .max(MOST_LINES),
});
