import { fieldOf } from '../fields/registry';
import { entryWords } from '../lists/told';
import { writtenAs } from '../records/written';

type Side = Record<string, unknown>;

/** A name is told by itself, a field of the record with its label. */
const labelOf = (key: string): string =>
  key === 'name' ? '' : `${fieldOf(key)?.label.toLowerCase() ?? key}: `;

const sideWords = (values: Side): string =>
  Object.entries(values)
    .map(([key, value]) => `${labelOf(key)}${writtenAs(value) || 'nothing'}`)
    .join(' · ');

/** Both sides of a step of the ledger in words. Of an item that only followed, the file alone is written anew. */
export const stepWords = (before: Side, after: Side): { before: string; after: string } =>
  entryWords(before, after) ?? {
    before: sideWords(before) || 'its file',
    after: sideWords(after) || 'written anew',
  };
