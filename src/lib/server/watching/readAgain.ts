import { HOUSE } from '#core/sight/viewer';
import sharp from 'sharp';
import { READING } from '#core/records/reading';
import { factsOf, isThere } from '../files/disk';
import { originalOf } from '../files/located';
import type { House } from '../house/house';
import type { Task } from '../jobs/attempt';
import { throughItems } from '../jobs/batches';
import { enqueue } from '../jobs/queue';
import { burstsOf } from '../bursts/ask';
import { filmOf } from '../renditions/looking';
import { coloursOf, measuresFrom } from '../renditions/seen';
import { pictureFile } from '../renditions/store';
import { learnAgain } from './reread';
import { isHeld } from '../sight/seen';

const BATCH = 100;
const AT_ONCE = 2;

/** Items that were read by an older version. */
const behind = ({ db }: House) =>
  db.selectFrom('item').where(isHeld('item')).where('reading', '<', READING);

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
  return (await isThere(path)) ? coloursOf(sharp(path)) : [];
}

/** One item's file again; fields nobody set here follow it. What is away or missing is read another time. */
async function readOne(house: House, itemId: string): Promise<void> {
  const file = await originalOf(house.db, itemId);
  if (!(await factsOf(file.path))?.isFile()) return;
  const found = await colours(house, file.pictureKey);
  const [large, small] = (['large', 'small'] as const).map((size) =>
    pictureFile(house, file.pictureKey, size),
  );
  const measures =
    file.kind === 'photo' && (await isThere(large!)) ? await measuresFrom(large!, small!) : {};
  await learnAgain(house, itemId, async (db, facts) => {
    const { technical, camera } = await db
      .selectFrom('item')
      .select(['technical', 'camera'])
      .where('id', '=', itemId)
      .executeTakeFirstOrThrow();
    await db
      .updateTable('item')
      .set({
        // What is known stays: probing a clip tells its rate better than its metadata do.
        technical: JSON.stringify({ ...facts.technical, ...measures, ...technical }),
        camera: camera || (facts.technical.camera ?? ''),
        ...(found.length > 0 ? { colours: found } : {}),
        reading: READING,
      })
      .where('id', '=', itemId)
      .execute();
  });
  if (file.kind === 'footage' || file.kind === 'sound') await filmOf(house, HOUSE, itemId);
}

/** Job: everything older accessions did not read, item by item; a file that cannot be read keeps none from it. */
export const readAgain: Task = async (house, _job, progress) => {
  const { total } = await behind(house)
    .select((of) => of.fn.countAll<number>().as('total'))
    .executeTakeFirstOrThrow();
  await throughItems(house, progress, {
    total: Number(total),
    atOnce: AT_ONCE,
    failed: 'could not be read again',
    next: (after, limit) =>
      behind(house)
        .select('id')
        .$if(after !== null, (query) => query.where('id', '>', after))
        .orderBy('id')
        .limit(limit)
        .execute(),
    act: (id) => readOne(house, id),
  });
  const accessions = await house.db.selectFrom('accession').select('id').execute();
  for (let from = 0; from < accessions.length; from += BATCH)
    await enqueue(
      house.db,
      accessions.slice(from, from + BATCH).map(({ id }) => burstsOf(id)),
    );
};
