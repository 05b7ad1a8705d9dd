import { fieldOf } from '../fields/registry';
import { entryWords } from '../lists/told';
import { writtenAs } from '../records/written';

type Side = Record<string, unknown>;

/** A name is told by itself, a field of the record with its label. */
const labelOf = (key: string): string =>
  key === 'name' ? '' : `${fieldOf(key)?.label.toLowerCase() ?? key}: `;

const sideWords = (values: Side): string =>
  Object.entries(values)
    .filter(([key]) => key !== 'placeId')
    .map(([key, value]) => `${labelOf(key)}${writtenAs(value) || 'nothing'}`)
    .join(' · ');

/** Both sides of a step of the ledger in words. Of an item that only followed, the file alone is written anew. */
export const stepWords = (before: Side, after: Side): { before: string; after: string } =>
  entryWords(before, after) ??
  folderWords(before, after) ?? {
    before: sideWords(before) || 'its file',
    after: sideWords(after) || 'written anew',
  };

/** A folder that was made, removed or moved, by its path; null for other steps. */
function folderWords(before: Side, after: Side): { before: string; after: string } | null {
  if (!('path' in before) && !('path' in after)) return null;
  const told = ({ path }: Side, none: string): string =>
    typeof path === 'string' ? `folder ${path}` : none;
  return { before: told(before, 'no folder'), after: told(after, 'removed') };
}
