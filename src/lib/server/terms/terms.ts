import { sql, type Kysely, type Transaction } from 'kysely';
import { termPath } from '#core/terms/path';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';

type Db = Kysely<Database> | Transaction<Database>;

/** Ids of terms by label, made where missing. */
export async function ensureTerms(db: Db, labels: string[]): Promise<Map<string, string>> {
  if (labels.length === 0) return new Map();
  await sql`insert into term (id, label)
    select * from unnest(${labels.map(newId)}::uuid[], ${labels}::text[])
    on conflict (lower(label)) do nothing`.execute(db);
  const { rows } = await sql<{ label: string; id: string }>`select asked.label, t.id
    from unnest(${labels}::text[]) as asked (label) join term t on lower(t.label) = lower(asked.label)`.execute(
    db,
  );
  return new Map(rows.map(({ label, id }) => [label, id]));
}

async function termNamed(
  db: Db,
  label: string,
): Promise<{ id: string; label: string } | undefined> {
  return db
    .selectFrom('term')
    .select(['id', 'label'])
    .where(sql`lower(label)`, '=', label.toLowerCase())
    .executeTakeFirst();
}

/**
 * Labels of terms as people type them: `Box kite under Kite` makes Box kite narrower than Kite, both where missing.
 * A term that is called so already is itself, whatever words it holds.
 */
export async function typedTerms(db: Db, typed: string[]): Promise<string[]> {
  const labels: string[] = [];
  for (const text of new Set(typed)) {
    const known = await termNamed(db, text.trim());
    const path = known ? [known.label] : termPath(text);
    let broaderId: string | null = null;
    for (const label of path.reverse()) {
      const term: { id: string } =
        (await termNamed(db, label)) ??
        (await db
          .insertInto('term')
          .values({ id: newId(), label, broaderId })
          .onConflict((conflict) => conflict.expression(sql`lower(label)`).doNothing())
          .returning('id')
          .executeTakeFirst()) ??
        (await termNamed(db, label))!;
      broaderId = term.id;
    }
    const own = path.at(-1);
    if (own) labels.push(own);
  }
  return labels;
}
