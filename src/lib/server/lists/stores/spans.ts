import { sql } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { SpanEntry } from '#core/entries/span';
import { SOUND_RATE } from '#core/footage/span';
import { isHeld, letGoAt } from '../../sight/seen';
import { endsOf } from '../../jobs/footage';
import { enqueue } from '../../jobs/queue';
import { among, type Store } from './store';

/** Frames a second of a clip, as core/footage counts them. */
const RATE = sql`coalesce(nullif((clip.technical ->> 'frameRate')::float8, 0), ${SOUND_RATE})`;

/**
 * Spans and markers: items of their own, with all an item has, but the file. One that is dropped is let go of, and comes back
 * with its record, terms, collections and relations.
 */
export const spans: Store<SpanEntry> = {
  async read(db, ids) {
    const { rows } = await sql<SpanEntry & { id: string }>`
      select id, of_id as of, from_frame as "from", to_frame as "to", is_marker as "isMarker", mark
      from item where id = ${among(ids)} and of_id is not null and ${isHeld('item')}`.execute(db);
    return new Map(rows.map(({ id, ...entry }) => [id, entry]));
  },
  async put(db, entries) {
    const rows = [...entries].map(([id, { of, from, to, isMarker, mark }], at) => ({
      ...{ id, of, from, to, marker: isMarker, mark, at },
    }));
    // What is true of a clip's every frame is true of a span at first: when, where and by whom it was taken.
    const { rows: put } = await sql`
      insert into item (id, number, accession_id, kind, media_type, format, original_name, technical, width, height, duration,
        creator, credit_line, copyright_notice, taken_edtf, taken_from, taken_to, taken_offset, latitude, longitude,
        provenance, reading, of_id, from_frame, to_frame, is_marker, mark)
      select w.id, a.year || '.' || lpad(a.number::text, greatest(3, length(a.number::text)), '0') || '.'
          || lpad((taken.most + row_number() over (partition by clip.accession_id order by w.at))::text, 4, '0'),
        clip.accession_id, 'span', clip.media_type, clip.format, clip.original_name, clip.technical, clip.width, clip.height,
        (w."to" - w."from") / ${RATE}, clip.creator, clip.credit_line, clip.copyright_notice, clip.taken_edtf,
        clip.taken_from, clip.taken_to, clip.taken_offset, clip.latitude, clip.longitude, '{}', clip.reading,
        clip.id, w."from", w."to", w.marker, w.mark
      from json_to_recordset(${JSON.stringify(rows)}::json)
        as w(id uuid, of uuid, "from" integer, "to" integer, marker boolean, mark text, at integer)
      join item clip on clip.id = w.of and ${isHeld('clip')}
      join accession a on a.id = clip.accession_id
      cross join lateral (select greatest(
        (select coalesce(max(split_part(n.number, '.', 3)::int), 0) from item n where n.accession_id = a.id),
        (select count(*) from accession_entry e where e.accession_id = a.id)) as most) taken
      on conflict (id) do update set from_frame = excluded.from_frame, to_frame = excluded.to_frame,
        is_marker = excluded.is_marker, mark = excluded.mark, duration = excluded.duration,
        first_ms = case when item.from_frame = excluded.from_frame and item.to_frame = excluded.to_frame then item.first_ms end
      returning id`.execute(db);
    if (put.length < entries.size)
      throw new ArchiveError('conflict', 'The clip it is of was let go of; give that back first.');
    await letGoAt(db, 'item', [...entries.keys()], null);
    await enqueue(db, [...new Set(rows.map((row) => row.of))].map(endsOf));
  },
  drop: (db, ids) => letGoAt(db, 'item', ids, new Date()),
};
