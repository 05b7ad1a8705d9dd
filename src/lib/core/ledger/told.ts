import { fieldOf } from '../fields/registry';
import { WASTEBASKET } from '../holdings/wastebasket';
import { entryWords } from '../entries/told';
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
  entryWords(before, after) ??
  folderWords(before, after) ??
  fileWords(before, after) ?? {
    before: sideWords(before) || 'its file',
    after: sideWords(after) || 'written anew',
  };

/** A folder that was made, removed or moved, by its path; null for other steps. */
function folderWords(before: Side, after: Side): { before: string; after: string } | null {
  if (!('path' in before) && !('path' in after)) return null;
  const told = ({ place, path }: Side, none: string): string =>
    typeof path === 'string' ? `folder ${place ? `${writtenAs(place)}/` : ''}${path}` : none;
  return { before: told(before, 'no folder'), after: told(after, 'removed') };
}

/** Where a file lies, by its whole path; its place is named where it is told. */
const pathWords = ({ place, folder, name }: Side): string =>
  folder === WASTEBASKET
    ? 'wastebasket'
    : [place, folder, name].filter((part) => typeof part === 'string' && part !== '').join('/');

/** A file that was moved or copied; null for other steps, those of names alone among them. */
function fileWords(before: Side, after: Side): { before: string; after: string } | null {
  if (!('folder' in before) && !('folder' in after)) return null;
  if ('copyId' in before) return { before: `copy ${pathWords(before)}`, after: 'taken away' };
  const copied = 'copyId' in after ? 'copied to ' : '';
  return { before: pathWords(before), after: copied + pathWords(after) };
}
