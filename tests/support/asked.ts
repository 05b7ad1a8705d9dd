import fc from 'fast-check';
import type { Field } from '#core/fields/field';
import { ALL_FIELDS } from '#core/fields/registry';
import { FOLDERS, PLACES, STAGES, TERMS } from './made';
import type { Choice } from './queries';

/** Fields a plain look at an item can answer. */
const KNOWN = new Set(
  'title caption creator creditLine copyrightNotice terms rating stage taken headline persons city camera lens iso aperture width height megapixels proportion number name originalName folder kind format bytes collection file picture copies position colours words'.split(
    ' ',
  ),
);
const NAMES: Record<string, string[]> = {
  terms: [...Object.keys(TERMS), 'kite', 'no such term'],
  stage: STAGES.filter(Boolean),
  collection: ['Poster round', 'Thrown away', 'nothing so called'],
  folder: [
    ...PLACES.flatMap((place) => FOLDERS.map((path) => (path ? `${place}/${path}` : place))),
    'studio SHELF',
    'Studio shelf/nowhere',
  ],
};
/** What is asked of the made-up items. */
export const ASKED: Choice = {
  text: fc.constantFrom(
    'red',
    'Red sail',
    'SAIL',
    'kathe',
    'low ti',
    'hrn',
    '50%',
    '_',
    '\\',
    'Marlow Heron 5',
    'Bea Lund',
    'Saltreach',
    'wind week',
  ),
  refs: (field: Field) => fc.constantFrom(...(NAMES[field.key] ?? ['x'])),
  numbers: (field: Field) =>
    field.key === 'rating'
      ? fc.integer({ min: -1, max: 5 })
      : fc.constantFrom(0, 1, 1.8, 2.8, 100, 200, 400, 3000),
  dates: fc.constantFrom(
    '2026',
    '2026-09',
    '2026-09-12',
    '2025-12-01/2026-01-31',
    '2026-09-12 19:42',
  ),
  fields: ALL_FIELDS.filter(({ key }) => KNOWN.has(key)),
};
