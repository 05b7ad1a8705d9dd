import { z } from 'zod';

/**
 * The registry of record fields: one table that drives reading, writing, forms, search and names.
 * Labels follow the IPTC Photo Metadata Standard 2023.1; `exif`, `iim` and `xmp` name where the value lives
 * in a file, as the Metadata Working Group's guidance (2.0, part 5) maps it.
 */
export interface Field {
  key: FieldKey;
  label: string;
  type: 'text' | 'long-text' | 'names' | 'terms' | 'rating' | 'stage' | 'taken';
  exif?: string;
  iim?: { tag: string; /** bytes the IIM allows */ limit: number };
  xmp: string;
}

export const FIELD_KEYS = [
  'title',
  'caption',
  'creator',
  'creditLine',
  'copyrightNotice',
  'terms',
  'rating',
  'stage',
  'taken',
] as const;
export type FieldKey = (typeof FIELD_KEYS)[number];

export const FIELDS: Record<FieldKey, Field> = {
  title: {
    key: 'title',
    label: 'Title',
    type: 'text',
    iim: { tag: 'IPTC:ObjectName', limit: 64 },
    xmp: 'XMP-dc:Title',
  },
  caption: {
    key: 'caption',
    label: 'Caption',
    type: 'long-text',
    exif: 'IFD0:ImageDescription',
    iim: { tag: 'IPTC:Caption-Abstract', limit: 2000 },
    xmp: 'XMP-dc:Description',
  },
  creator: {
    key: 'creator',
    label: 'Creator',
    type: 'names',
    exif: 'IFD0:Artist',
    iim: { tag: 'IPTC:By-line', limit: 32 },
    xmp: 'XMP-dc:Creator',
  },
  creditLine: {
    key: 'creditLine',
    label: 'Credit line',
    type: 'text',
    iim: { tag: 'IPTC:Credit', limit: 32 },
    xmp: 'XMP-photoshop:Credit',
  },
  copyrightNotice: {
    key: 'copyrightNotice',
    label: 'Copyright notice',
    type: 'text',
    exif: 'IFD0:Copyright',
    iim: { tag: 'IPTC:CopyrightNotice', limit: 128 },
    xmp: 'XMP-dc:Rights',
  },
  terms: {
    key: 'terms',
    label: 'Terms',
    type: 'terms',
    iim: { tag: 'IPTC:Keywords', limit: 64 },
    xmp: 'XMP-dc:Subject',
  },
  rating: { key: 'rating', label: 'Rating', type: 'rating', xmp: 'XMP-xmp:Rating' },
  stage: { key: 'stage', label: 'Stage', type: 'stage', xmp: 'XMP-xmp:Label' },
  taken: {
    key: 'taken',
    label: 'Taken',
    type: 'taken',
    exif: 'ExifIFD:DateTimeOriginal',
    iim: { tag: 'IPTC:DateCreated', limit: 8 },
    xmp: 'XMP-photoshop:DateCreated',
  },
};

/** NUL cannot be kept in a database text nor in IIM; a record never holds it. */
const clean = (text: string): string => text.replaceAll('\0', '').trim();
const text = (max: number) => z.string().max(max).transform(clean);
const takenShape = z.object({
  edtf: z.string(),
  from: z.string(),
  to: z.string(),
  offset: z.number().nullable(),
});

/** The values of a record. Empty text and empty lists mean: not described. */
export const recordSchema = z.object({
  title: text(2000),
  caption: text(20_000),
  creator: z.array(text(500)).max(50),
  creditLine: text(2000),
  copyrightNotice: text(4000),
  terms: z.array(text(200)).max(500),
  rating: z.number().int().min(-1).max(5),
  stage: text(200),
  taken: takenShape.nullable(),
});

export type RecordValues = z.infer<typeof recordSchema>;

export const EMPTY_RECORD: RecordValues = {
  title: '',
  caption: '',
  creator: [],
  creditLine: '',
  copyrightNotice: '',
  terms: [],
  rating: 0,
  stage: '',
  taken: null,
};

/**
 * A change to one or many records. `addTerms` and `removeTerms` leave the other terms as they are;
 * `taken` is text (EDTF or a moment), empty to forget the date.
 */
export const changeSchema = recordSchema
  .omit({ taken: true })
  .extend({
    taken: z.string().max(100),
    addTerms: z.array(text(200)).max(500),
    removeTerms: z.array(text(200)).max(500),
  })
  .partial()
  .strict();

export type RecordChange = z.infer<typeof changeSchema>;

/** Where a value came from. */
export type ValueSource = 'file' | 'person' | 'intake';
