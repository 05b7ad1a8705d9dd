import { sql, type Kysely, type Transaction } from 'kysely';
import type { Database } from '../../db/schema';
import { isHeld } from '../../sight/seen';

type Db = Kysely<Database> | Transaction<Database>;

/** What a file is known by: all its bytes, and its picture without metadata where that can be told. */
export interface Fingerprint {
  content: string;
  essence: string | null;
}

export interface Holder {
  id: string;
  number: string;
  /** To the last byte; else the same picture with another description. */
  isSame: boolean;
}

/**
 * For each fingerprint the item that holds it: its file has these bytes now, or had them when it was brought
 * in (describing an item changes its file's bytes, not what it is), or its picture data are the same.
 * @param except an accession whose own items do not count
 * @returns in the order of the fingerprints; undefined where nothing is held
 */
export async function heldItems(
  db: Db,
  prints: Fingerprint[],
  except: string | null = null,
): Promise<(Holder | undefined)[]> {
  if (prints.length === 0) return [];
  const hashes = prints.flatMap(({ content, essence }) =>
    essence ? [content, essence] : [content],
  );
  const { rows } = await sql<{ hash: string; id: string; number: string }>`
    select found.hash, i.id, i.number from (
      select content_hash as hash, item_id from file where role = 'original' and content_hash = any(${hashes}::text[])
      union select essence_hash, item_id from file where role = 'original' and essence_hash = any(${hashes}::text[])
      union select content_hash, item_id from accession_entry
        where item_id is not null and content_hash = any(${hashes}::text[])
    ) found join item i on i.id = found.item_id
    where ${isHeld('i')} and i.accession_id is distinct from ${except}::uuid
    order by i.number desc`.execute(db);
  const byHash = new Map(rows.map(({ hash, id, number }) => [hash, { id, number }]));
  return prints.map(({ content, essence }) => {
    const same = byHash.get(content);
    if (same) return { ...same, isSame: true };
    const alike = essence ? byHash.get(essence) : undefined;
    return alike && { ...alike, isSame: false };
  });
}
