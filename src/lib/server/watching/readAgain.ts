import { stat } from 'node:fs/promises';
import pMap from 'p-map';
import sharp from 'sharp';
import { sentenceOf } from '#core/errors';
import { READING } from '#core/records/reading';
import { factsOf } from '../files/disk';
import { originalOf } from '../files/located';
import type { House } from '../house/house';
import type { Task } from '../jobs/attempt';
import { enqueue } from '../jobs/queue';
import { coloursOf } from '../renditions/pictures';
import { pictureFile } from '../renditions/store';
import { learnAgain } from './reread';

const BATCH = 100;
const AT_ONCE = 2;

/** Items that were read by an older version. */
const behind = ({ db }: House) =>
  db.selectFrom('item').where('deletedAt', 'is', null).where('reading', '<', READING);

/** Add the work of reading again, where there is any to do. */
export async function enqueueReadAgain(house: House): Promise<void> {
  const { total } = await behind(house)
    .select((of) => of.fn.countAll<number>().as('total'))
    .executeTakeFirstOrThrow();
  if (Number(total) === 0) return;
  await enqueue(house.db, [
    {
      task: 'read-again',
      title: 'Reading what older accessions did not read',
      subject: 'read-again',
      total: Number(total),
      unit: 'items',
    },
  ]);
}

async function colours(house: House, pictureKey: string): Promise<string[]> {
  const path = pictureFile(house, pictureKey, 'small');
  const isThere = await stat(path).then(
    () => true,
    () => false,
  );
  return isThere ? coloursOf(sharp(path)) : [];
}

/** One item's file again; fields nobody set here follow it. What is away or missing is read another time. */
async function readOne(house: House, itemId: string): Promise<void> {
  const file = await originalOf(house.db, itemId);
  if (!(await factsOf(file.path))?.isFile()) return;
  const found = await colours(house, file.pictureKey);
  await learnAgain(house, itemId, async (db, facts) => {
    const { technical, latitude, longitude, camera } = await db
      .selectFrom('item')
      .select(['technical', 'latitude', 'longitude', 'camera'])
      .where('id', '=', itemId)
      .executeTakeFirstOrThrow();
    await db
      .updateTable('item')
      .set({
        // What is known stays: probing a clip tells its rate better than its metadata do.
        technical: JSON.stringify({ ...facts.technical, ...technical }),
        camera: camera || (facts.technical.camera ?? ''),
        latitude: latitude ?? facts.technical.latitude ?? null,
        longitude: longitude ?? facts.technical.longitude ?? null,
        ...(found.length > 0 ? { colours: found } : {}),
        reading: READING,
      })
      .where('id', '=', itemId)
      .execute();
  });
}

/** Job: everything older accessions did not read, item by item; a file that cannot be read keeps none from it. */
export const readAgain: Task = async (house, _job, progress) => {
  const { total } = await behind(house)
    .select((of) => of.fn.countAll<number>().as('total'))
    .executeTakeFirstOrThrow();
  let done = 0;
  let last: string | null = null;
  for (;;) {
    const after: string | null = last;
    const batch = await behind(house)
      .select('id')
      .$if(after !== null, (query) => query.where('id', '>', after))
      .orderBy('id')
      .limit(BATCH)
      .execute();
    if (batch.length === 0) return;
    await pMap(
      batch,
      ({ id }) =>
        readOne(house, id).catch((error: unknown) =>
          house.log.warn({ item: id, error: sentenceOf(error) }, 'could not be read again'),
        ),
      { concurrency: AT_ONCE },
    );
    done += batch.length;
    last = batch.at(-1)!.id;
    await progress.report(done, Number(total), 'items');
    await progress.checkWish();
  }
};
