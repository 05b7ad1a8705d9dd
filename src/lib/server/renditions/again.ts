import { rm } from 'node:fs/promises';
import { ArchiveError } from '#core/errors';
import { originalOf, type LocatedFile } from '../files/located';
import type { House } from '../house/house';
import { enqueue } from '../jobs/queue';
import { notifyItems } from '../live/notify';
import { makeChosenPictures } from './pictures';
import { renditionFolder, withChoice, withoutChoice, type PictureChoice } from './store';

/** Pictures as somebody had chosen them, which nobody is shown any more. */
async function forget(house: House, pictureKey: string): Promise<void> {
  const shown = await house.db
    .selectFrom('file')
    .select('id')
    .where('pictureKey', '=', pictureKey)
    .limit(1)
    .executeTakeFirst();
  if (shown) return;
  await rm(renditionFolder(house, pictureKey), { recursive: true, force: true });
  await house.db.deleteFrom('rendition').where('pictureKey', '=', pictureKey).execute();
}

/** Whether a file can be pictured so. */
async function canBe(house: House, file: LocatedFile, choice: PictureChoice): Promise<boolean> {
  if (choice === null) return true;
  if ('developed' in choice) return file.format === 'raw';
  const { duration } = await house.db
    .selectFrom('item')
    .select('duration')
    .where('id', '=', file.itemId)
    .executeTakeFirstOrThrow();
  return file.kind === 'footage' && choice.moment <= (duration ?? 0);
}

/**
 * Make the pictures of an item anew, whatever was said of them before.
 * @param choice how they are taken from now on; undefined: as they were
 * @throws ArchiveError bad-request where it cannot be pictured so
 */
export async function askForPicture(
  house: House,
  itemId: string,
  choice?: PictureChoice,
): Promise<void> {
  const file = await originalOf(house.db, itemId);
  const pictureKey = choice === undefined ? file.pictureKey : withChoice(file.pictureKey, choice);
  if (pictureKey !== file.pictureKey) {
    if (!(await canBe(house, file, choice!)))
      throw new ArchiveError('bad-request', 'No such picture can be made of it.');
    // Until they are there, everybody sees the former ones.
    await makeChosenPictures(house, file, pictureKey);
    await house.db.updateTable('file').set({ pictureKey }).where('id', '=', file.id).execute();
    if (file.pictureKey !== withoutChoice(file.pictureKey)) await forget(house, file.pictureKey);
  } else
    await house.db
      .deleteFrom('rendition')
      .where('pictureKey', '=', pictureKey)
      .where('recipe', 'in', ['small', 'medium', 'large'])
      .execute();
  await house.db
    .updateTable('item')
    .set({ noPicture: null, noPictureDetail: null })
    .where('id', '=', itemId)
    .execute();
  const title = `Making the picture of ${file.name}`;
  await enqueue(house.db, [{ task: 'pictures', title, subject: itemId, itemId }]);
  await notifyItems(house.db, [itemId], ['picture']);
}
