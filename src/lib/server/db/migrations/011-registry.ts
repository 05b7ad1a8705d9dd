/**
 * The registry's record, small integers for the index, standing collections, tokens, and the change log: triggers
 * note every visible change, with its transaction, for those who follow.
 */
const perItem = (table: string, columns: string[]): string => `
create function log_${table}() returns trigger language plpgsql as $$
begin
  ${columns
    .map((column) => {
      const from = (rows: string): string =>
        `select distinct 'item', ${column} from ${rows} where ${column} is not null`;
      return `if tg_op <> 'DELETE' then insert into change_log (kind, subject) ${from('added')}; end if;
  if tg_op <> 'INSERT' then insert into change_log (kind, subject) ${from('gone')}; end if;`;
    })
    .join('\n  ')}
  return null;
end $$;
create trigger log_added after insert on ${table} referencing new table as added
  for each statement execute function log_${table}();
create trigger log_changed after update on ${table} referencing old table as gone new table as added
  for each statement execute function log_${table}();
create trigger log_gone after delete on ${table} referencing old table as gone
  for each statement execute function log_${table}();
`;

/** Tables whose rows are names of something many items have. */
const named = (table: string): string => `
create trigger log_named after insert or update or delete on ${table}
  for each row execute function log_named();
`;

export const registry = `
alter table item
  add column record jsonb not null default '{}',
  add column ord integer generated always as identity,
  add column number_key bigint generated always as (
    split_part(number, '.', 1)::bigint * 100000000000 + split_part(number, '.', 2)::bigint * 10000000
    + split_part(number, '.', 3)::bigint) stored;
create unique index item_ord on item (ord);
create unique index item_number_order on item (number_key);
alter table term add column ord integer generated always as identity;
create unique index term_ord on term (ord);
create index term_broader on term (broader_id) where broader_id is not null;
create index file_folder on file (folder_id) where role = 'original';

alter table collection add column query jsonb, add check ((kind = 'standing') = (query is not null));

create table api_token (
  id uuid primary key,
  person_id uuid not null references person on delete cascade,
  name text not null check (name <> ''),
  token_hash text not null unique,
  scopes text[] not null,
  created_at timestamptz not null default now(),
  used_at timestamptz,
  revoked_at timestamptz
);
create index api_token_person on api_token (person_id);

create table change_log (
  no bigint generated always as identity,
  xid xid8 not null default pg_current_xact_id(),
  kind text not null,
  subject uuid not null,
  at timestamptz not null default now()
);
create index change_log_xid on change_log (xid);
create index change_log_at on change_log (at);
-- Transactions below this are told of no more.
create table change_log_reach (pruned_below xid8 not null);
insert into change_log_reach values (pg_current_xact_id());
create function log_named() returns trigger language plpgsql as $$
begin
  insert into change_log (kind, subject) values (tg_table_name, coalesce(new.id, old.id));
  return null;
end $$;

create function log_item() returns trigger language plpgsql as $$
begin
  if tg_op <> 'DELETE' then insert into change_log (kind, subject) select 'item', id from added;
  else insert into change_log (kind, subject) select 'item', id from gone; end if;
  return null;
end $$;
create trigger log_added after insert on item referencing new table as added
  for each statement execute function log_item();
create trigger log_changed after update on item referencing new table as added
  for each statement execute function log_item();
create trigger log_gone after delete on item referencing old table as gone
  for each statement execute function log_item();
${perItem('file', ['item_id'])}
${perItem('item_term', ['item_id'])}
${perItem('collection_item', ['item_id'])}
${perItem('lineage', ['item_id', 'of_id'])}
${['folder', 'term', 'stage', 'collection', 'accession', 'person'].map(named).join('')}
create function log_place() returns trigger language plpgsql as $$
begin
  insert into change_log (kind, subject) values ('folder', new.id);
  if new.here is distinct from old.here then
    insert into change_log (kind, subject)
      select 'item', item_id from file where place_id = new.id and role = 'original';
  end if;
  return null;
end $$;
create trigger log_named after update on place for each row execute function log_place();
`;
