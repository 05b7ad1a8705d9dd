/** What is to be known of a kind of thing that has a name and is referred to by its id. */
export interface RefFacts {
  /** The field by which a sentence speaks of it. */
  field: string;
  /** Lead-in where it is offered while somebody types. */
  about: string;
  /** As many of it as one looks through while typing. */
  most: number;
  /** With what lies below it. */
  within?: true;
  /** What it is found by, of its label; not given: all of it. */
  found?: (label: string) => string;
  /** How a name that is looked up is written; not given: in lower case. */
  plain?: (label: string) => string;
}

/** Accessions are named `2026.14` as well as `2026.014`. */
const plainNumber = (label: string): string =>
  label.replace(
    /^(\d{4})\.0*(\d{1,9})$/,
    (_, year: string, number: string) => `${year}.${number.padStart(3, '0')}`,
  );

/**
 * Everything that is referred to. The query holds ids, never labels. A new kind is a line here, its names in
 * server/query, and how the index reads them in server/index; the compiler asks for both.
 */
const KINDS = {
  term: { field: 'terms', about: 'about', most: 6 },
  stage: { field: 'stage', about: 'at stage', most: 3 },
  collection: { field: 'collection', about: 'collected in', most: 4 },
  accession: { field: 'accession', about: 'accession', most: 2, plain: plainNumber },
  person: { field: 'broughtBy', about: 'brought in by', most: 2 },
  folder: {
    field: 'folder',
    about: 'in',
    most: 5,
    within: true,
    found: (label) => label.split('/').at(-1)!,
  },
} satisfies Record<string, RefFacts>;
export type RefKind = keyof typeof KINDS;
export const REFS: Record<RefKind, RefFacts> = KINDS;
export const REF_KINDS = Object.keys(KINDS) as RefKind[];

export const isRefKind = (name: string): name is RefKind => Object.hasOwn(KINDS, name);
