import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { Viewer } from '#core/sight/viewer';
import { nodeWords } from '#core/query/sentence';
import { EVERYTHING, type Query } from '#core/query/tree';
import type { Database } from '../db/schema';
import { asked } from '../query/conditions';
import { FROM } from '../query/expressions';
import { labelsOf, resolve } from '../query/names';

export interface Why {
  /** Everything the sentence says holds. */
  found: boolean;
  parts: { words: string; holds: boolean }[];
}

/** Why an item is in a result, or is not. @throws ArchiveError not-found */
export async function whyOf(
  db: Kysely<Database>,
  viewer: Viewer,
  query: Query,
  itemId: string,
): Promise<Why> {
  const { query: named } = await resolve(db, query);
  const labels = await labelsOf(db, named);
  const conditions = await Promise.all(
    named.where.map((node) => asked(db, viewer, { ...EVERYTHING, where: [node] })),
  );
  const columns = conditions.map(({ where }, at) => sql`(${where}) as ${sql.id(`part${at}`)}`);
  const { where: visible } = await asked(db, viewer, EVERYTHING);
  const { rows } = await sql<
    Record<string, boolean>
  >`select ${sql.join([sql`true as seen`, ...columns])}
    from ${FROM} where ${visible} and i.id = ${itemId}::uuid`.execute(db);
  const [row] = rows;
  if (!row) throw new ArchiveError('not-found', 'There is no such item.');
  const parts = named.where.map((node, at) => ({
    words: nodeWords(node, (reference) => labels[reference]?.split('/').at(-1)),
    holds: row[`part${at}`] === true,
  }));
  return { found: parts.every(({ holds }) => holds), parts };
}
