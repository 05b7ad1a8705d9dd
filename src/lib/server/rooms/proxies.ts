import type { Kysely } from 'kysely';
import type { Database } from '../db/schema';
import { enqueue } from '../jobs/queue';
import { isHeld } from '../sight/seen';

/** Rooms play proxies alone: those of clips and sounds in a collection are made where they are not. */
export async function askForProxies(
  db: Kysely<Database>,
  collectionId: string,
  itemId?: string,
): Promise<void> {
  let query = db
    .selectFrom('collectionItem as c')
    .innerJoin('item as i', 'i.id', 'c.itemId')
    .innerJoin('file as f', (join) =>
      join.onRef('f.itemId', '=', 'i.id').on('f.role', '=', 'original'),
    )
    .select(['i.id', 'f.name'])
    .where('c.collectionId', '=', collectionId)
    .where('i.kind', 'in', ['footage', 'sound'])
    .where(isHeld('i'))
    .where(({ not, exists, selectFrom }) =>
      not(
        exists(
          selectFrom('rendition as r')
            .select('r.recipe')
            .whereRef('r.pictureKey', '=', 'f.pictureKey')
            .where('r.recipe', '=', 'proxy'),
        ),
      ),
    )
    .limit(MOST);
  if (itemId) query = query.where('i.id', '=', itemId);
  const rows = await query.execute();
  await enqueue(
    db,
    rows.map(({ id, name }) => ({
      task: 'proxy',
      title: `Making a proxy of ${name}`,
      subject: id,
      itemId: id,
    })),
  );
}

const MOST = 2000;
