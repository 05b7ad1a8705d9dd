import { originalOf } from '../files/located';
import { isThere } from '../files/disk';
import type { House } from '../house/house';
import type { Task } from '../jobs/attempt';
import { throughItems } from '../jobs/batches';
import { enqueue } from '../jobs/queue';
import { makePicturesOf } from './pictures';
import { PICTURE_SIZES, pictureFile, type PictureSize } from './store';
import { isHeld } from '../sight/seen';

const held = (house: House) => house.db.selectFrom('item').where(isHeld('item'));

/** Ask for all pictures that are not there; what had none is tried again. @returns the job, null while one is at it */
export async function askToRemake(house: House, actorId: string | null): Promise<string | null> {
  const open = await house.db
    .selectFrom('job')
    .select('id')
    .where('task', '=', 'remake')
    .where('state', 'in', ['waiting', 'running'])
    .executeTakeFirst();
  if (open) return null;
  const { total } = await held(house)
    .select((of) => of.fn.countAll<number>().as('total'))
    .executeTakeFirstOrThrow();
  const [id] = await enqueue(house.db, [
    {
      task: 'remake',
      title: 'Making the pictures that are not there',
      subject: 'remake',
      createdBy: actorId,
      total: Number(total),
      unit: 'items',
    },
  ]);
  return id ?? null;
}

const isWhole = async (house: House, key: string): Promise<boolean> => {
  for (const size of Object.keys(PICTURE_SIZES))
    if (!(await isThere(pictureFile(house, key, size as PictureSize)))) return false;
  return true;
};

async function remakeOne(house: House, itemId: string): Promise<void> {
  const file = await originalOf(house.db, itemId);
  // What is away is not asked: that would be told as a reason why there is no picture.
  if (!(await isWhole(house, file.pictureKey)) && (await isThere(file.path)))
    await makePicturesOf(house, { itemId, parentId: null });
}

/** Job: the pictures of the whole archive, where they are not; one that cannot be made keeps none from it. */
export const remakePictures: Task = async (house, _job, progress) => {
  const { total } = await held(house)
    .select((of) => of.fn.countAll<number>().as('total'))
    .executeTakeFirstOrThrow();
  await throughItems(house, progress, {
    total: Number(total),
    atOnce: 2,
    failed: 'has no picture made anew',
    next: (after, limit) =>
      held(house)
        .select('id')
        .$if(after !== null, (query) => query.where('id', '>', after))
        .orderBy('id')
        .limit(limit)
        .execute(),
    act: (id) => remakeOne(house, id),
  });
};
