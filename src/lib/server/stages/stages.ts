import { sql, type Kysely, type Transaction } from 'kysely';
import { FIRST_STAGES } from '#core/stages/stages';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';

type Db = Kysely<Database> | Transaction<Database>;

/** Id of the stage of a name; a name that a file brought is made a stage of the team. */
export async function ensureStage(db: Db, name: string): Promise<string | null> {
  if (name === '') return null;
  const find = () =>
    db
      .selectFrom('stage')
      .select('id')
      .where(sql`lower(name)`, '=', name.toLowerCase())
      .executeTakeFirst();
  const found = await find();
  if (found) return found.id;
  const { count } = await db
    .selectFrom('stage')
    .select((select) => select.fn.countAll<number>().as('count'))
    .executeTakeFirstOrThrow();
  const id = newId();
  await db
    .insertInto('stage')
    .values({
      id,
      name,
      shape: 'bar',
      colour: 'pencil',
      key: `other-${id}`,
      position: Number(count),
    })
    .onConflict((conflict) => conflict.doNothing())
    .execute();
  return (await find())?.id ?? null;
}

/** The stages a new archive begins with. */
export async function addFirstStages(db: Kysely<Database>): Promise<void> {
  const rows = FIRST_STAGES.map((stage, position) => ({ id: newId(), ...stage, position }));
  const { count } = await db
    .selectFrom('stage')
    .select((select) => select.fn.countAll<number>().as('count'))
    .executeTakeFirstOrThrow();
  if (Number(count) === 0) await db.insertInto('stage').values(rows).execute();
}
