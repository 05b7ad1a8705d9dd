import { readFile } from 'node:fs/promises';
import { filmSchema } from '#core/footage/film';
import { timesOf } from '#core/footage/frames';
import { countedAt } from '#core/footage/span';
import { originalOf, type LocatedFile } from '../files/located';
import type { House } from '../house/house';
import type { Task } from '../jobs/attempt';
import { notifyItems } from '../live/notify';
import { isHeld } from '../sight/seen';
import { makeChosenPictures } from './pictures';
import { filmFile, withChoice } from './store';

/**
 * When each frame of a clip is taken out of it, in ms: a hair before it is shown, as the one found is the next that is
 * shown.
 */
async function momentsOf(house: House, file: LocatedFile): Promise<(frame: number) => number> {
  const text = await readFile(filmFile(house, file.pictureKey, 'film'), 'utf8').catch(() => null);
  const film = text === null ? null : filmSchema.parse(JSON.parse(text));
  const { technical } = await house.db
    .selectFrom('item')
    .select('technical')
    .where('id', '=', file.itemId)
    .executeTakeFirstOrThrow();
  const rate = countedAt(technical.frameRate);
  const times = film?.frames ? timesOf(film.frames, film.first) : null;
  return (frame) => {
    const seconds = times ? (times[Math.min(frame, times.length - 1)] ?? 0) : frame / rate;
    return Math.max(0, Math.floor(seconds * 1000) - 1);
  };
}

const AT_ONCE = 50;

/** Job: first and last frames of a clip's spans, where they are not pictured as the spans lie now. */
export const pictureEnds: Task = async (house, { itemId }) => {
  const file = await originalOf(house.db, itemId!);
  if (file.kind !== 'footage') return;
  const momentOf = await momentsOf(house, file);
  const failed = new Set<string>();
  for (;;) {
    const spans = await house.db
      .selectFrom('item')
      .select(['id', 'fromFrame', 'toFrame'])
      .where('ofId', '=', file.itemId)
      .where('firstMs', 'is', null)
      .where(isHeld('item'))
      .$if(failed.size > 0, (query) => query.where('id', 'not in', [...failed]))
      .limit(AT_ONCE)
      .execute();
    if (spans.length === 0) return;
    for (const { id, fromFrame, toFrame } of spans) {
      const [firstMs, lastMs] = [momentOf(fromFrame!), momentOf(toFrame! - 1)];
      try {
        for (const moment of new Set([firstMs, lastMs]))
          await makeChosenPictures(
            house,
            file,
            withChoice(file.pictureKey, { moment: moment / 1000 }),
          );
      } catch (error) {
        // One that cannot be pictured keeps the clip's picture, and none of the others from theirs.
        failed.add(id);
        house.log.warn({ item: id, error: String(error) }, 'has no pictures of its ends');
        continue;
      }
      await house.db
        .updateTable('item')
        .set({ firstMs, lastMs })
        .where('id', '=', id)
        // Moved meanwhile it is pictured anew.
        .where('fromFrame', '=', fromFrame)
        .where('toFrame', '=', toFrame)
        .execute();
      await notifyItems(house.db, [id], ['picture']);
    }
  }
};
