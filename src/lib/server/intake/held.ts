import { sql, type Kysely, type Transaction } from 'kysely';
import type { Database } from '../db/schema';

type Db = Kysely<Database> | Transaction<Database>;

/**
 * Items that hold these contents: their file has these bytes now, or had them when it was brought in
 * (describing an item changes its file's bytes, not what it is).
 * @param except an accession whose own items do not count
 * @returns item by content hash
 */
export async function heldItems(
  db: Db,
  hashes: string[],
  except: string | null = null,
): Promise<Map<string, { id: string; number: string }>> {
  if (hashes.length === 0) return new Map();
  const { rows } = await sql<{ hash: string; id: string; number: string }>`
    select found.hash, i.id, i.number from (
      select content_hash as hash, item_id from file where role = 'original' and content_hash = any(${hashes}::text[])
      union select content_hash, item_id from accession_entry
        where item_id is not null and content_hash = any(${hashes}::text[])
    ) found join item i on i.id = found.item_id
    where i.deleted_at is null and i.accession_id is distinct from ${except}::uuid
    order by i.number desc`.execute(db);
  return new Map(rows.map(({ hash, id, number }) => [hash, { id, number }]));
}
