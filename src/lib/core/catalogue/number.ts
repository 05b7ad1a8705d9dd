/** Catalogue numbers are year.accession.item, as in museum practice: 2026.014.0237. */
export interface CatalogueNumber {
  year: number;
  accession: number;
  item: number;
}

const NUMBER = /^(\d{4})\.(\d{3,6})\.(\d{4,8})$/;

/** `2026.014` */
export function formatAccession(year: number, accession: number): string {
  return `${year}.${String(accession).padStart(3, '0')}`;
}

/** `2026.014.0237` */
export function formatNumber({ year, accession, item }: CatalogueNumber): string {
  return `${formatAccession(year, accession)}.${String(item).padStart(4, '0')}`;
}

/** The parts of a catalogue number, or null for any other text. */
export function parseNumber(text: string): CatalogueNumber | null {
  const match = NUMBER.exec(text.trim());
  if (!match) return null;
  return { year: Number(match[1]), accession: Number(match[2]), item: Number(match[3]) };
}
