import { sql, type Kysely, type Transaction } from 'kysely';
import { z } from 'zod';
import { TERM_RULES_ID } from '#core/entries/rules';
import { NO_TERM_RULES, type TermRules } from '#core/terms/rules';
import type { Database } from '../db/schema';
import { settingOf } from '../lists/stores/rules';
import { typedTerms } from './terms';

type Db = Kysely<Database> | Transaction<Database>;

/** What the house wants of terms that are given. */
export const termRulesSchema = z.object({
  broader: z.boolean(),
  hierarchy: z.enum(['untouched', 'written', 'removed']),
});

/** As they are kept. */
export function termRulesOf(value: unknown): TermRules {
  const parsed = termRulesSchema.safeParse(value);
  return parsed.success ? parsed.data : NO_TERM_RULES;
}

export const termRules = async (db: Db): Promise<TermRules> =>
  termRulesOf(await settingOf(db, TERM_RULES_ID));

/** Every broader term of terms, however far up, by their labels; terms that are not known have none. */
export async function broaderOf(db: Db, labels: readonly string[]): Promise<Map<string, string[]>> {
  if (labels.length === 0) return new Map();
  const { rows } = await sql<{ label: string; broader: string[] }>`
    with recursive up as (
      select t.label as own, b.broader_id as id from term t join term_broader b on b.term_id = t.id
        where lower(t.label) = any(select lower(unnest(${[...labels]}::text[])))
      union select up.own, b.broader_id from up join term_broader b on b.term_id = up.id
    )
    select up.own as label, array_agg(t.label order by t.label) as broader
    from up join term t on t.id = up.id group by 1`.execute(db);
  return new Map(rows.map(({ label, broader }) => [label, broader]));
}

/** Labels with those the house rule brings along. */
export async function withBroader(db: Db, labels: string[]): Promise<string[]> {
  if (labels.length === 0 || !(await termRules(db)).broader) return labels;
  const above = await broaderOf(db, labels);
  return [...new Set([...labels, ...labels.flatMap((label) => above.get(label) ?? [])])];
}

/** Labels of terms that are given, as people type them: made where missing, with those the house rule brings along. */
export const givenTerms = async (db: Db, typed: string[]): Promise<string[]> =>
  withBroader(db, await typedTerms(db, typed));

/** Ways from the top down to some terms, several where a term stands under several. */
export async function waysTo(db: Db, labels: readonly string[]): Promise<string[][]> {
  if (labels.length === 0) return [];
  const { rows } = await sql<{ way: string[] }>`
    with recursive up as (
      select t.id, array[t.label] as way, 1 as depth from term t where t.label = any(${[...labels]}::text[])
      union all select b.broader_id, t.label || up.way, up.depth + 1 from up
        join term_broader b on b.term_id = up.id join term t on t.id = b.broader_id where up.depth < ${DEEPEST}
    )
    select way from up where depth = ${DEEPEST} or not exists (select from term_broader b where b.term_id = up.id)
    order by way limit ${MOST_WAYS}`.execute(db);
  return rows.map(({ way }) => way);
}
/** Levels that readers of the schema look through; of a longer way the lowest are told. */
const DEEPEST = 6;
const MOST_WAYS = 2000;
