import { sql } from 'kysely';
import type { BurstEntry } from '#core/entries/burst';
import { isHeld } from '../../sight/seen';
import { among, type Db, type Store } from './store';

/** How items stand in bursts: every item does somehow, so nothing is ever dropped. */
export const bursts: Store<BurstEntry> = {
  async read(db, ids) {
    const rows = await db
      .selectFrom('item')
      .select(['id', 'burst', 'burstLead', 'burstReason', 'burstByHand'])
      .where('id', '=', among(ids))
      .execute();
    return new Map(
      rows.map(({ id, burst, burstLead, burstReason, burstByHand }) => [
        id,
        { burst, lead: burstLead, reason: burstReason, byHand: burstByHand },
      ]),
    );
  },
  async put(db, entries) {
    const ids = [...entries.keys()];
    const rows = [...entries].map(([id, { burst, lead, reason, byHand }]) => ({
      id,
      burst,
      lead,
      reason,
      hand: byHand,
    }));
    const named = await burstsOf(db, ids);
    await sql`update item i set burst = t.burst, burst_lead = t.lead, burst_reason = t.reason,
        burst_by_hand = t.hand, burst_size = case when t.burst is null then 1 else i.burst_size end
      from json_to_recordset(${JSON.stringify(rows)}::json) as t(id uuid, burst uuid, lead boolean, reason text, hand boolean)
      where i.id = t.id`.execute(db);
    await settleBursts(db, [...named, ...(await burstsOf(db, ids))]);
  },
  drop: () => Promise.resolve(),
};

/** Bursts that some items stand in. */
export async function burstsOf(db: Db, ids: readonly string[]): Promise<string[]> {
  const rows = await db
    .selectFrom('item')
    .select('burst')
    .distinct()
    .where('id', '=', among(ids))
    .where('burst', 'is not', null)
    .execute();
  return rows.map(({ burst }) => burst!);
}

/** After some frames went or came back: of each burst one that is held stands for those that are. */
export async function settleBursts(db: Db, bursts: readonly string[]): Promise<void> {
  await sql`with held as (
      select id, count(*) over (partition by burst) as size,
        row_number() over (partition by burst order by burst_lead desc, taken_from, number_key) = 1 as lead
      from item where ${isHeld('item')} and burst = ${among(bursts)})
    update item i set burst_size = least(h.size, 32000), burst_lead = h.lead,
      burst_reason = case when h.lead then i.burst_reason end
    from held h where h.id = i.id
      and (i.burst_size, i.burst_lead) is distinct from (least(h.size, 32000)::smallint, h.lead)`.execute(
    db,
  );
}
