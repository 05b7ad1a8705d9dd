/**
 * What items are found by lies in a table of its own, and nothing orders items by their last change: a row that is written
 * no longer goes into every index again.
 *
 * Positions are part of the record: kept places of one's own, tracks of receivers. Rules of the house may ask how a value
 * is written.
 */
export const positions = `
alter table item drop column change_no;
alter index item_words rename to item_words_before;
create table item_words (
  item_id uuid primary key references item on delete cascade,
  words tsvector not null
);
insert into item_words (item_id, words) select id, words from item where words is not null;
alter table item drop column words;
create index item_words_words on item_words using gin (words);
alter table item set (fillfactor = 85);
create function log_item_words() returns trigger language plpgsql as $$
begin
  insert into change_log (kind, subject) select 'words', item_id from added;
  return null;
end $$;
create trigger log_added after insert on item_words referencing new table as added
  for each statement execute function log_item_words();
create trigger log_changed after update on item_words referencing new table as added
  for each statement execute function log_item_words();

create table spot (
  id uuid primary key,
  name text not null check (name <> ''),
  latitude float8 not null check (latitude between -90 and 90),
  longitude float8 not null check (longitude between -180 and 180),
  radius float8 not null check (radius > 0),
  sublocation text not null,
  city text not null,
  state text not null,
  country text not null,
  note text not null
);
create unique index spot_name on spot (lower(name));
create table track (
  id uuid primary key,
  name text not null check (name <> ''),
  hash text not null unique,
  points integer not null,
  stretches integer not null,
  -- ms since 1970
  from_ms bigint not null,
  to_ms bigint not null,
  -- Stretches of points: [[ms, latitude, longitude], ...]
  stretched jsonb not null,
  brought_by uuid references person,
  brought_at timestamptz not null default now()
);
create index operation_step_file on operation_step (file_id) where file_id is not null;
create index operation_step_entry on operation_step ((after ->> 'id')) where action = 'entry';
create index item_placed on item (taken_from)
  where latitude is not null and deleted_at is null and taken_edtf like '%T%';

create or replace function rule_texts(i item, key text) returns text[] language sql stable as $$
  select array_remove(case key
    when 'title' then array[i.title]
    when 'caption' then array[i.caption]
    when 'creator' then i.creator
    when 'creditLine' then array[i.credit_line]
    when 'copyrightNotice' then array[i.copyright_notice]
    when 'rating' then array[nullif(i.rating, 0)::text]
    when 'stage' then array[i.stage_id::text]
    when 'taken' then array[i.taken_edtf]
    when 'position' then array[i.latitude::text]
    when 'terms' then array(select it.term_id::text from item_term it where it.item_id = i.id)
    else case jsonb_typeof(i.record -> key)
      when 'array' then array(select jsonb_array_elements_text(i.record -> key))
      else array[i.record ->> key] end
    end, '')
$$;
create or replace function broken_rules(i item, rules jsonb) returns text[] language sql stable as $$
  select coalesce(array_agg(rule ->> 'label' order by rule ->> 'label'), '{}')
  from jsonb_array_elements(coalesce(rules, '[]')) rule
    cross join lateral (select array_remove(rule_texts(i, rule ->> 'field'), null) as texts) said
  where case when cardinality(said.texts) = 0 then (rule ->> 'required')::boolean
    else jsonb_array_length(rule -> 'allowed') > 0
        and exists (select from unnest(said.texts) as text where not rule -> 'allowed' ? text)
      or coalesce(rule ->> 'regex', '') <> ''
        and exists (select from unnest(said.texts) as text where text !~ (rule ->> 'regex')) end
$$;
`;
