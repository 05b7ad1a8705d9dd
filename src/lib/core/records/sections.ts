import { FIELD_KEYS, LANGUAGES, type FieldKey } from './fields';

/** How the record card is laid out: what always stands at its head, then sections of the whole registry. */
export interface Section {
  key: string;
  label: string;
  fields: readonly FieldKey[];
}

/** These have their own places at the head of the card. */
export const HEAD_FIELDS: readonly FieldKey[] = ['title', 'caption', 'rating', 'stage', 'terms'];
/** Below them, until a team chooses its own. */
export const FIRST_FIELDS: readonly FieldKey[] = [
  'taken',
  'creator',
  'creditLine',
  'copyrightNotice',
];

const GROUPS: readonly Section[] = [
  {
    key: 'story',
    label: 'Story',
    fields: ['headline', 'altText', 'event', 'genre', 'scene', 'subjectCodes', 'captionWriter'],
  },
  { key: 'people', label: 'People', fields: ['creator', 'persons', 'organisations'] },
  { key: 'shown', label: 'Place shown', fields: ['sublocation', 'city', 'state', 'country'] },
  {
    key: 'created',
    label: 'Place it was made at',
    fields: ['position', 'createdSublocation', 'createdCity', 'createdState', 'createdCountry'],
  },
  {
    key: 'rights',
    label: 'Rights',
    fields: [
      ...(['creditLine', 'copyrightNotice', 'rightsOwner', 'licensor', 'supplier'] as const),
      ...(['source', 'usageTerms', 'webStatement'] as const),
      ...(['modelRelease', 'propertyRelease', 'digitalSource'] as const),
    ],
  },
  { key: 'work', label: 'Work', fields: ['taken', 'jobId', 'instructions'] },
  {
    key: 'languages',
    label: 'In other languages',
    fields: LANGUAGES.map(({ others }) => others),
  },
];

/**
 * The sections of a card whose first fields are these: every field of the record stands somewhere once. A field
 * that no section names comes with the rest.
 */
export function sectionsAfter(first: readonly FieldKey[]): Section[] {
  const placed = new Set<FieldKey>([...HEAD_FIELDS, ...first]);
  const named = new Set(GROUPS.flatMap(({ fields }) => fields));
  const rest: Section = {
    key: 'more',
    label: 'More',
    fields: FIELD_KEYS.filter((key) => !named.has(key)),
  };
  return [...GROUPS, rest]
    .map((group) => ({ ...group, fields: group.fields.filter((key) => !placed.has(key)) }))
    .filter(({ fields }) => fields.length > 0);
}
