import { sql, type Kysely } from 'kysely';
import { foldBursts, type Frame } from '#core/bursts/fold';
import { fromBigint } from '#core/likeness/phash';
import type { Database } from '../db/schema';
import type { House } from '../house/house';
import type { JobRow } from '../jobs/attempt';
import { notifyItems } from '../live/notify';
import { isHeld } from '../sight/seen';

type Db = Kysely<Database>;

/** Frames of an accession that nobody folded by hand; only moments are told closely enough. */
async function framesOf(db: Db, accessionId: string): Promise<Frame[]> {
  const { rows } = await sql<{
    id: string;
    camera: string;
    name: string;
    width: number | null;
    height: number | null;
    at: number;
    likeness: string | null;
    sharpness: number | null;
    lost: number | null;
    rating: number;
  }>`select id, camera, original_name as name, width, height, (extract(epoch from taken_from) * 1000)::float8 as at, likeness::text as likeness,
      (technical ->> 'sharpness')::float8 as sharpness,
      coalesce((technical ->> 'lostInWhite')::float8, 0) + coalesce((technical ->> 'lostInBlack')::float8, 0) as lost,
      rating
    from item where accession_id = ${accessionId} and kind = 'photo' and ${isHeld('item')}
      and not burst_by_hand and taken_from is not null and taken_from = taken_to`.execute(db);
  return rows.map(({ likeness, lost, ...row }) => ({
    ...row,
    likeness: likeness === null ? null : fromBigint(likeness),
    lost: (lost ?? 0) / 100,
  }));
}

/** Fold the frames of an accession anew. @returns how many changed */
export async function foldAccession(db: Db, accessionId: string): Promise<number> {
  const bursts = foldBursts(await framesOf(db, accessionId));
  const rows = bursts.flatMap(({ frames, lead, reason }) => {
    // The burst is called after its first frame, so that it is the same when it is folded again.
    const own = { burst: frames[0]!, size: Math.min(frames.length, 32_000) };
    return frames.map((id) => ({
      id,
      ...own,
      lead: id === lead,
      reason: id === lead ? reason : null,
    }));
  });
  const { numAffectedRows } = await sql`
    with told as (select * from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb)
      as t(id uuid, burst uuid, size smallint, lead boolean, reason text)),
    wished as (
      select i.id, t.burst, coalesce(t.size, 1::smallint) as size, coalesce(t.lead, true) as lead, t.reason
      from item i left join told t on t.id = i.id
      where i.accession_id = ${accessionId} and not i.burst_by_hand)
    update item i set burst = w.burst, burst_size = w.size, burst_lead = w.lead, burst_reason = w.reason
    from wished w where w.id = i.id
      and (i.burst, i.burst_size, i.burst_lead, i.burst_reason) is distinct from (w.burst, w.size, w.lead, w.reason)`.execute(
    db,
  );
  return Number(numAffectedRows ?? 0);
}

/** Job: the bursts of an accession. */
export async function foldJob(house: House, job: JobRow): Promise<void> {
  if (!job.accessionId) return;
  const changed = await foldAccession(house.db, job.accessionId);
  if (changed > 0) await notifyItems(house.db, 'many', ['burst', 'lead']);
}
