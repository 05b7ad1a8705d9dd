import { sql } from 'kysely';
import type { TermEntry, TermLabel } from '#core/lists/entries';
import { tidied } from '#core/terms/exchange';
import { isHeld } from '../../sight/seen';
import { among, type Store } from './store';

export const terms: Store<TermEntry> = {
  async read(db, ids) {
    const { rows } = await sql<Omit<TermEntry, 'labels'> & { id: string; labels: TermLabel[] }>`
      select t.id, t.label, t.note, t.retired,
        coalesce((select json_agg(json_build_object('kind', l.kind, 'lang', l.lang, 'label', l.label)) from term_label l where l.term_id = t.id), '[]') as labels,
        array(select b.broader_id::text from term_broader b where b.term_id = t.id) as broader,
        array(select r.related_id::text from term_related r where r.term_id = t.id
          union select r.term_id::text from term_related r where r.related_id = t.id) as related
      from term t where t.id = ${among(ids)}`.execute(db);
    // In one order, however the database compares texts: entries are compared whole.
    return new Map(rows.map(({ id, ...entry }) => [id, tidied(entry)]));
  },
  async put(db, entries) {
    const ids = [...entries.keys()];
    const rows = [...entries].map(([id, { label, note, retired }]) => ({
      id,
      label,
      note,
      retired,
    }));
    await sql`insert into term (id, label, note, retired)
      select id, label, note, retired from json_to_recordset(${JSON.stringify(rows)}::json)
        as row(id uuid, label text, note text, retired boolean)
      on conflict (id) do update set label = excluded.label, note = excluded.note, retired = excluded.retired`.execute(
      db,
    );
    for (const table of ['term_broader', 'term_label'])
      await sql`delete from ${sql.table(table)} where term_id = ${among(ids)}`.execute(db);
    await sql`delete from term_related where term_id = ${among(ids)} or related_id = ${among(ids)}`.execute(
      db,
    );
    const all = [...entries];
    const above = all.flatMap(([id, { broader }]) => broader.map((one) => [id, one] as const));
    await sql`insert into term_broader (term_id, broader_id)
      select * from unnest(${above.map(([id]) => id)}::uuid[], ${above.map(([, one]) => one)}::uuid[])`.execute(
      db,
    );
    const beside = all.flatMap(([id, { related }]) => related.map((one) => [id, one] as const));
    await sql`insert into term_related (term_id, related_id)
      select distinct least(a, b), greatest(a, b) from unnest(
        ${beside.map(([id]) => id)}::uuid[], ${beside.map(([, one]) => one)}::uuid[]) as pair (a, b)
      on conflict do nothing`.execute(db);
    const labels = all.flatMap(([id, entry]) => entry.labels.map((one) => ({ id, ...one })));
    await sql`insert into term_label (term_id, kind, lang, label)
      select id, kind, lang, label from json_to_recordset(${JSON.stringify(labels)}::json)
        as row(id uuid, kind text, lang text, label text)
      on conflict do nothing`.execute(db);
  },
  async drop(db, ids) {
    await sql`delete from term where id = ${among(ids)}`.execute(db);
  },
  saying: (ids) => sql`(with recursive narrower as (
      select unnest(${[...ids]}::uuid[]) as id
      union select b.term_id from term_broader b join narrower n on b.broader_id = n.id
    )
    select i.id from narrower n join item_term it on it.term_id = n.id
      join item i on i.id = it.item_id and ${isHeld('i')})`,
};
