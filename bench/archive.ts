import { sql } from 'kysely';
import { READING } from '#core/records/reading';
import type { House } from '#server/house/house';
import { newId } from '#server/house/ids';

/** A made-up archive of any size: skewed folders, terms, cameras, dates, words, places and ratings. */
const FOLDERS = 18_000;
const TERMS = 50_000;
const ITEMS_AT_ONCE = 50_000;

export const SEEDED = 'seeded';

export async function seededItems({ db }: House): Promise<number> {
  const row = await db
    .selectFrom('setting')
    .select('value')
    .where('key', '=', SEEDED)
    .executeTakeFirst();
  return Number((row?.value as { items?: number } | undefined)?.items ?? 0);
}

/** Fill an empty archive. @param tell called with the items made so far */
export async function seed(
  { db }: House,
  items: number,
  tell: (done: number) => void,
): Promise<void> {
  await sql`select setseed(0.4180)`.execute(db);
  const [place, accession] = [newId(), newId()];
  await sql`insert into place (id, name, root, here) values (${place}::uuid, 'Big shelf', '/nowhere', false)`.execute(
    db,
  );
  // A tree of folders: a root, years, and what lies below, three levels in all.
  await sql`insert into folder (id, place_id, parent_id, path, name) values (gen_random_uuid(), ${place}::uuid, null, '', '')`.execute(
    db,
  );
  await sql`insert into folder (id, place_id, parent_id, path, name)
    select gen_random_uuid(), ${place}::uuid, (select id from folder where path = ''), 'y' || y, 'y' || y
    from generate_series(1990, 2026) y`.execute(db);
  await sql`insert into folder (id, place_id, parent_id, path, name)
    select gen_random_uuid(), ${place}::uuid, p.id, p.path || '/job ' || n, 'job ' || n
    from generate_series(1, ${Math.ceil(FOLDERS / 37)}::int) n join folder p on p.path like 'y%' and p.path not like '%/%'`.execute(
    db,
  );
  await sql`insert into term (id, label)
    select gen_random_uuid(), 'term ' || n from generate_series(1, ${TERMS}::int) n`.execute(db);
  await sql`insert into term_broader (term_id, broader_id)
    select t.id, b.id from generate_series(${TERMS / 50 + 1}::int, ${TERMS}::int) n
    join term t on t.label = 'term ' || n
    join term b on b.label = 'term ' || (1 + n % ${TERMS / 50}::int)`.execute(db);
  await sql`insert into accession (id, year, number, title, source, plan, root, mode, place_id, state)
    values (${accession}::uuid, 2026, 1, 'Made up', '{}', '{}', '/', 'in-place', ${place}::uuid, 'done')`.execute(
    db,
  );
  for (const table of ['item', 'item_words', 'file', 'item_term'])
    await sql`alter table ${sql.table(table)} disable trigger user`.execute(db);
  await sql`create temporary table some_folders as select row_number() over (order by md5(path)) - 1 as n, id from folder`.execute(
    db,
  );
  await sql`create index on some_folders (n)`.execute(db);
  await sql`create temporary table some_terms as select row_number() over (order by md5(label)) - 1 as n, id from term`.execute(
    db,
  );
  await sql`create index on some_terms (n)`.execute(db);
  for (let from = 1; from <= items; from += ITEMS_AT_ONCE) {
    const to = Math.min(items, from + ITEMS_AT_ONCE - 1);
    await sql`create temporary table batch as
      select g as n, gen_random_uuid() as id, random() as a, random() as b, random() as c, random() as d, random() as e,
        timestamp '1995-01-01' + (power(random(), 0.4) * 11600) * interval '1 day' as at
      from generate_series(${from}::int, ${to}::int) g`.execute(db);
    await sql`insert into item (id, number, accession_id, kind, media_type, format, original_name, title, caption, creator,
        credit_line, rating, stage_id, taken_edtf, taken_from, taken_to, technical, camera, latitude, longitude, width, height, record,
        colours, reading)
      select id, '2026.001.' || lpad(n::text, 7, '0'), ${accession}::uuid,
        (array['photo','photo','photo','photo','photo','photo','photo','footage','sound','vector','document'])[1 + floor(b * 11)],
        'image/jpeg', (array['jpeg','jpeg','jpeg','raw','tiff','png'])[1 + floor(c * 6)], 'IMG_' || n || '.jpg',
        case when d < 0.6 then 'Title ' || floor(a * 5000) else '' end, case when e < 0.3 then 'A caption of some words ' || n else '' end,
        case when b < 0.8 then array['Person ' || floor(power(c, 2) * 300)] else '{}' end,
        case when c < 0.7 then 'Credit ' || floor(power(d, 2) * 60) else '' end,
        floor(power(a, 2) * 7)::int - 1, case when d < 0.5 then (select s.id from stage s order by s.position offset floor(e * 5)::int limit 1) end,
        case when e < 0.95 then to_char(at, 'YYYY-MM-DD"T"HH24:MI:SS') end, case when e < 0.95 then date_trunc('second', at) end,
        case when e < 0.95 then date_trunc('second', at) end,
        jsonb_build_object('camera', 'Camera ' || floor(power(b, 2) * 40), 'lens', 'Lens ' || floor(power(c, 2) * 80),
          'iso', (array[100,200,400,800,1600,3200])[1 + floor(d * 6)], 'aperture', (array[1.4,2,2.8,4,5.6,8])[1 + floor(e * 6)],
          'focalLength', (array[24,35,50,85,200])[1 + floor(a * 5)], 'exposure', 1 / (30 + floor(b * 1000))),
        'Camera ' || floor(power(b, 2) * 40), case when a < 0.3 then 51 + b * 2 else null end, case when a < 0.3 then c * 3 else null end,
        (array[6000,4000,3000,1920])[1 + floor(e * 4)], (array[4000,6000,3000,1080])[1 + floor(e * 4)],
        jsonb_build_object('city', 'City ' || floor(power(a, 2) * 200)),
        array['#' || lpad(to_hex(floor(power(a, 2) * 4096)::int), 3, '0'), '#' || lpad(to_hex(floor(b * 4096)::int), 3, '0')],
        ${READING}
      from batch`.execute(db);
    await sql`insert into item_words (item_id, words)
      select id, array_to_tsvector(array['img', 'title', 'word' || floor(power(a, 3) * 20000), 'word' || floor(power(b, 2) * 20000),
          'person' || floor(power(c, 2) * 300), 'n' || n, 'city' || floor(power(a, 2) * 200)])
      from batch`.execute(db);
    await sql`insert into file (id, item_id, place_id, folder_id, name, role, size, modified_ns, inode, content_hash, picture_key)
      select gen_random_uuid(), b.id, ${place}::uuid, f.id, 'IMG_' || b.n || '.jpg', 'original', 100000 + floor(b.c * 30000000), 0, b.n, b.n::text, b.n::text
      from batch b join some_folders f on f.n = floor(power(b.a, 3) * (select count(*) from some_folders))`.execute(
      db,
    );
    await sql`insert into item_term (item_id, term_id)
      select distinct b.id, t.id from batch b cross join generate_series(1, 4) k
      join some_terms t on t.n = floor(power(abs(sin(b.n * k * 12.9898)), 4) * ${TERMS - 1}::int)`.execute(
      db,
    );
    await sql`drop table batch`.execute(db);
    tell(to);
  }
  for (const table of ['item', 'item_words', 'file', 'item_term'])
    await sql`alter table ${sql.table(table)} enable trigger user`.execute(db);
  await sql`drop table some_folders, some_terms`.execute(db);
  await sql`analyze`.execute(db);
  await sql`insert into setting (key, value) values (${SEEDED}, ${JSON.stringify({ items })}::jsonb)
    on conflict (key) do update set value = excluded.value`.execute(db);
}
