import type { House } from '../house/house';
import { enqueue } from '../jobs/queue';
import type { JobRow, Progress } from '../jobs/attempt';
import { settleArrivals } from './arrivals';
import { countOf, differencesOf, lasting } from './differences';
import { follow } from './follow';
import { rootIsHere, setHere } from '../places/here';
import { placeById, type Place } from '../places/places';
import { readTouched } from './reread';

/** A difference has to last this long: our own work changes files a moment before their rows. */
const LASTS_MS = 1500;

const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => setTimeout(resolve, milliseconds));

/** Ask for a place to be compared with its disk; one waiting comparison is enough. */
export async function askToCompare(
  house: House,
  place: Pick<Place, 'id' | 'name'>,
  actorId: string | null = null,
): Promise<void> {
  await enqueue(house.db, [
    {
      task: 'compare-place',
      title: `Comparing “${place.name}” with its disk`,
      subject: place.id,
      createdBy: actorId,
      unit: 'files',
    },
  ]);
}

/** Job: pick up what other programs did in a place. A place that is away loses nothing. */
export async function comparePlaceJob(
  house: House,
  job: JobRow,
  progress: Progress,
): Promise<void> {
  const place = await placeById(house.db, job.subject);
  if (!(await rootIsHere(house, place))) return setHere(house, place, false);
  await setHere(house, place, true);
  const first = await differencesOf(house, place, progress);
  if (countOf(first) > 0) {
    await pause(LASTS_MS);
    if (!(await rootIsHere(house, place))) return setHere(house, place, false);
    const second = await differencesOf(house, place, progress);
    const found = lasting(first, second);
    const total = countOf(found);
    let done = 0;
    const report = async (more: number): Promise<void> => {
      done += more;
      await progress.report(done, total, 'differences');
      await progress.checkWish();
    };
    await follow(house, place, [...found.moved, ...found.back]);
    await report(found.moved.length + found.back.length);
    await readTouched(house, place, found.touched, report);
    await settleArrivals(house, place, found);
    await progress.report(total, total, 'differences');
    // What changed between the looks gets two looks of its own.
    if (countOf(second) > total) await askToCompare(house, place);
  }
  await house.db
    .updateTable('place')
    .set({ lookedAt: house.now() })
    .where('id', '=', place.id)
    .execute();
}
