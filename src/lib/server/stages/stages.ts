import { sql, type Kysely, type Transaction } from 'kysely';
import { FIRST_STAGES, MOST_STAGES } from '#core/stages/stages';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';

type Db = Kysely<Database> | Transaction<Database>;

/** Ids of stages by what files and people call them, also by what they were called before. */
export async function stagesNamed(db: Db, names: readonly string[]): Promise<Map<string, string>> {
  const { rows } = await sql<{ name: string; id: string }>`
    select distinct on (asked.name) asked.name, s.id from unnest(${[...names]}::text[]) as asked (name)
      join stage s on lower(s.name) = lower(asked.name)
        or lower(asked.name) = any(select lower(former) from unnest(s.formerly) as former)
    order by asked.name, lower(s.name) = lower(asked.name) desc, s.position`.execute(db);
  return new Map(rows.map(({ name, id }) => [name, id]));
}

/** What stages are called now, by what they were called. */
export async function presentStages(db: Db, names: string[]): Promise<Map<string, string>> {
  const ids = await stagesNamed(db, names);
  const rows = await db.selectFrom('stage').select(['id', 'name']).execute();
  const own = new Map(rows.map(({ id, name }) => [id, name]));
  return new Map([...ids].flatMap(([name, id]) => (own.has(id) ? [[name, own.get(id)!]] : [])));
}

/** Id of the stage of a name; a name that a file brought is made a stage of the team, as far as it has room for one. */
export async function ensureStage(db: Db, name: string): Promise<string | null> {
  if (name === '') return null;
  const find = async () => (await stagesNamed(db, [name])).get(name);
  const found = await find();
  if (found) return found;
  const stages = await db.selectFrom('stage').select('retired').execute();
  const inUse = stages.filter(({ retired }) => !retired).length;
  await db
    .insertInto('stage')
    .values({
      id: newId(),
      name,
      shape: 'bar',
      colour: 'pencil',
      key: null,
      position: stages.length,
      retired: inUse >= MOST_STAGES,
    })
    .onConflict((conflict) => conflict.expression(sql`lower(name)`).doNothing())
    .execute();
  return (await find()) ?? null;
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
