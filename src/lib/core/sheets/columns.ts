/** The columns of an intake spreadsheet (docs/spreadsheets.md): one table that makes the template, its explanation and the checks. */
export const COLUMNS = [
  {
    key: 'file',
    label: 'File',
    need: 'required',
    says: 'Name of a file that is sent along, or its path in a ZIP. Required where Address is empty.',
    example: 'Dunes/kite-014.jpg',
  },
  {
    key: 'address',
    label: 'Address',
    need: 'required',
    says: 'Web address the file is fetched from. Required where File is empty.',
    example: '',
  },
  { key: 'title', label: 'Title', need: 'optional', says: 'A short name.', example: 'Red sail' },
  {
    key: 'caption',
    label: 'Caption',
    need: 'optional',
    says: 'What the picture shows.',
    example: 'Test flight over the flats at low tide.',
  },
  {
    key: 'creator',
    label: 'Creator',
    need: 'optional',
    says: 'Who made it; several parted by semicolons.',
    example: 'Bea Lund; Tomas Ekwueme',
  },
  {
    key: 'creditLine',
    label: 'Credit line',
    need: 'optional',
    says: 'Whom to credit when it is published.',
    example: 'Saltreach Kites',
  },
  {
    key: 'copyrightNotice',
    label: 'Copyright notice',
    need: 'optional',
    says: 'Who owns the copyright.',
    example: '© 2026 Saltreach Kites',
  },
  {
    key: 'terms',
    label: 'Terms',
    need: 'optional',
    says: 'Keywords, parted by semicolons.',
    example: 'Kite; Dunes',
  },
  {
    key: 'rating',
    label: 'Rating',
    need: 'optional',
    says: '0 to 5, or rejected.',
    example: '4',
  },
  {
    key: 'stage',
    label: 'Stage',
    need: 'optional',
    says: 'One of the team’s stages, by its name.',
    example: 'Shortlist',
  },
  {
    key: 'taken',
    label: 'Taken',
    need: 'optional',
    says: 'A date cell, or text: 2026, 2026-09, 2026-09-12, 2026-09-12 19:42. 12.09.2026 is day.month.year.',
    example: '2026-09-12 19:42',
  },
  {
    key: 'number',
    label: 'Catalogue number',
    need: 'must stay empty',
    says: 'The archive gives it.',
    example: '',
  },
] as const;

export type ColumnKey = (typeof COLUMNS)[number]['key'];
/** What a cell holds: a date cell of a spreadsheet is a moment without a zone, kept in UTC. */
export type Cell = string | number | boolean | Date | null;
export type SheetRow = { line: number; cells: Partial<Record<ColumnKey, Cell>> };
