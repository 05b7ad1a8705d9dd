import { sql, type Kysely, type Transaction } from 'kysely';
import { termPath } from '#core/terms/path';
import { likeText } from '#core/text/like';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { isHeld } from '../sight/seen';

type Db = Kysely<Database> | Transaction<Database>;

/**
 * Ids of terms by what they are called: their own label, else a label of one term alone that is also known so, in any
 * language.
 */
export async function termsNamed(db: Db, labels: readonly string[]): Promise<Map<string, string>> {
  if (labels.length === 0) return new Map();
  const { rows } = await sql<{ label: string; id: string | null }>`
    select asked.label, coalesce(
      (select t.id from term t where lower(t.label) = lower(asked.label)),
      (select min(l.term_id::text)::uuid from term_label l where lower(l.label) = lower(asked.label)
        having count(distinct l.term_id) = 1)) as id
    from (select distinct unnest(${[...labels]}::text[]) as label) asked`.execute(db);
  return new Map(rows.flatMap(({ label, id }) => (id ? [[label, id] as const] : [])));
}

/** Ids of terms by label, made where missing. */
export async function ensureTerms(db: Db, labels: string[]): Promise<Map<string, string>> {
  const known = await termsNamed(db, labels);
  const missing = labels.filter((label) => !known.has(label));
  if (missing.length === 0) return known;
  await sql`insert into term (id, label)
    select * from unnest(${missing.map(newId)}::uuid[], ${missing}::text[])
    on conflict (lower(label)) do nothing`.execute(db);
  return new Map([...known, ...(await termsNamed(db, missing))]);
}

/** The labels terms have now, by what they are called. */
export async function presentLabels(
  db: Db,
  labels: readonly string[],
): Promise<Map<string, string>> {
  const ids = await termsNamed(db, labels);
  const rows = await db
    .selectFrom('term')
    .select(['id', 'label'])
    .where('id', '=', sql<string>`any(${[...ids.values()]}::uuid[])`)
    .execute();
  const own = new Map(rows.map(({ id, label }) => [id, label]));
  return new Map([...ids].flatMap(([label, id]) => (own.has(id) ? [[label, own.get(id)!]] : [])));
}

/**
 * Labels of terms as people type them: `Box kite under Kite` makes Box kite narrower than Kite, both where missing.
 * A term that is called so already is itself, whatever words it holds.
 */
export async function typedTerms(db: Db, typed: string[]): Promise<string[]> {
  const labels: string[] = [];
  for (const text of new Set(typed.map((one) => one.trim()))) {
    const known = (await presentLabels(db, [text])).get(text);
    const path = known ? [known] : termPath(text);
    let broaderId: string | null = null;
    let own: string | undefined;
    for (const label of path.reverse()) {
      const id: string =
        (await termsNamed(db, [label])).get(label) ??
        (await madeUnder(db, label, broaderId)) ??
        (await termsNamed(db, [label])).get(label)!;
      broaderId = id;
      own = label;
    }
    if (own) labels.push((await presentLabels(db, [own])).get(own) ?? own);
  }
  return labels;
}

/** Id of a term made under another; undefined where somebody made it meanwhile. */
async function madeUnder(
  db: Db,
  label: string,
  broaderId: string | null,
): Promise<string | undefined> {
  const made = await db
    .insertInto('term')
    .values({ id: newId(), label })
    .onConflict((conflict) => conflict.expression(sql`lower(label)`).doNothing())
    .returning('id')
    .executeTakeFirst();
  if (made && broaderId)
    await db.insertInto('termBroader').values({ termId: made.id, broaderId }).execute();
  return made?.id;
}

const NEAR = { items: 60, terms: 6 };

/** Terms of what lies in an item's folder and was taken about the same time, that it was not given yet; the most given first. */
export async function termsNear(db: Db, itemId: string): Promise<string[]> {
  const { rows } = await sql<{ label: string }>`
    with me as (
      select i.id, i.taken_from, f.folder_id from item i join file f on f.item_id = i.id and f.role = 'original'
      where i.id = ${itemId}::uuid
    ), near as (
      select i.id from me join file f on f.folder_id = me.folder_id and f.role = 'original'
        join item i on i.id = f.item_id and ${isHeld('i')} and i.id <> me.id
      order by abs(extract(epoch from i.taken_from - me.taken_from)) nulls last limit ${NEAR.items}
    )
    select t.label from near join item_term it on it.item_id = near.id
      join term t on t.id = it.term_id and not t.retired
    where not exists (select from item_term own where own.item_id = ${itemId}::uuid and own.term_id = t.id)
    group by t.id order by count(*) desc, lower(t.label) limit ${NEAR.terms}`.execute(db);
  return rows.map(({ label }) => label);
}

const MOST_OFFERED = 12;

/** Terms in use by letters of any of their labels, with a broader one and what they were found by; those that begin with the letters first. */
export async function termsOffered(
  db: Db,
  typed: string,
): Promise<{ label: string; broader: string | null; by: string | null }[]> {
  const letters = typed.toLowerCase().slice(0, 200);
  const like = `%${likeText(letters)}%`;
  const { rows } = await sql<{ label: string; broader: string | null; by: string | null }>`
    select t.label, min(named.by) as by, (select min(b.label) from term_broader tb join term b on b.id = tb.broader_id
      where tb.term_id = t.id) as broader
    from (
      select id, label, null as by from term where lower(label) like ${like}
      union all select term_id, label, label from term_label where lower(label) like ${like}
    ) named join term t on t.id = named.id and not t.retired
    group by t.id order by min(position(${letters} in lower(named.label))), lower(t.label) limit ${MOST_OFFERED}`.execute(
    db,
  );
  return rows;
}
