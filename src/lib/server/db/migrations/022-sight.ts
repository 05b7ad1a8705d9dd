/**
 * Who may see what. Marks say it of places, folders, accessions, collections and items; an item keeps the strictest that
 * holds for it, so that finding need not ask. And items without a file of their own: spans of another item, in its frames.
 */
export const sight = `
create table access_mark (
  id uuid primary key,
  place_id uuid unique references place on delete cascade,
  folder_id uuid unique references folder on delete cascade,
  accession_id uuid unique references accession on delete cascade,
  collection_id uuid unique references collection on delete cascade,
  item_id uuid unique references item on delete cascade,
  state text not null check (state in ('dormant', 'restricted', 'waiting', 'closed')),
  note text not null default '',
  check (num_nonnulls(place_id, folder_id, accession_id, collection_id, item_id) = 1)
);

alter table item add column access text not null default 'open'
  check (access in ('open', 'dormant', 'restricted', 'waiting', 'closed'));
create index item_access on item (access) where access <> 'open';
alter table item add column of_id uuid references item;
alter table item add column from_frame integer;
alter table item add column to_frame integer;
alter table item add column holder_id uuid not null generated always as (coalesce(of_id, id)) stored;
alter table item add constraint item_span check (
  (of_id is null and from_frame is null and to_frame is null)
  or (of_id <> id and from_frame >= 0 and to_frame > from_frame));
create index item_of on item (of_id) where of_id is not null;

-- Of what a mark speaks, whatever else is said of it.
create function items_under(mark access_mark) returns setof uuid language sql stable as $$
  with recursive below as (
    select mark.folder_id as id where mark.folder_id is not null
    union select d.id from folder d join below b on d.parent_id = b.id
  ), inside as (
    select mark.collection_id as id where mark.collection_id is not null
    union select c.id from collection c join inside n on c.parent_id = n.id
  ), named as (
    select f.item_id as id from file f where f.role = 'original' and f.place_id = mark.place_id
    union select f.item_id from file f join below b on b.id = f.folder_id where f.role = 'original'
    union select i.id from item i where i.accession_id = mark.accession_id
    union select ci.item_id from collection_item ci join inside n on n.id = ci.collection_id
      join collection c on c.id = mark.collection_id and c.deleted_at is null
    union select mark.item_id where mark.item_id is not null
  )
  select id from named union select s.id from item s join named n on s.of_id = n.id
$$;

-- The marks that hold for an item, and what they are set on.
create function marks_on(item item) returns setof access_mark language sql stable as $$
  with recursive above as (
    select d.id, d.parent_id, d.place_id from file f join folder d on d.id = f.folder_id
      where f.item_id = item.holder_id and f.role = 'original'
    union select d.id, d.parent_id, d.place_id from folder d join above a on a.parent_id = d.id
  ), around as (
    select c.id, c.parent_id from collection_item ci join collection c on c.id = ci.collection_id and c.deleted_at is null
      where ci.item_id in (item.id, item.of_id)
    union select c.id, c.parent_id from collection c join around a on a.parent_id = c.id where c.deleted_at is null
  )
  select m.* from access_mark m where m.item_id in (item.id, item.of_id) or m.accession_id = item.accession_id
    or m.folder_id in (select id from above) or m.place_id in (select place_id from above)
    or m.collection_id in (select id from around)
$$;

create function settle_access(ids uuid[]) returns void language plpgsql as $$
begin
  if exists (select from access_mark) then
    update item i set access = w.access from (
      select o.id, coalesce((select case max(array_position(array['dormant', 'restricted', 'waiting', 'closed'], m.state))
          when 1 then 'dormant' when 2 then 'restricted' when 3 then 'waiting' when 4 then 'closed' end
        from marks_on(o) m), 'open') as access
      from item o where o.id = any(ids) or o.of_id = any(ids)
    ) w where w.id = i.id and i.access <> w.access;
  else
    update item set access = 'open' where access <> 'open' and (id = any(ids) or of_id = any(ids));
  end if;
end $$;

create function access_marked() returns trigger language plpgsql as $$
declare before uuid[] := '{}'; after uuid[] := '{}';
begin
  if tg_op <> 'INSERT' then before := array(select items_under(old)); end if;
  if tg_op <> 'DELETE' then after := array(select items_under(new)); end if;
  perform settle_access(before || after);
  return null;
end $$;
create trigger settle_access after insert or update or delete on access_mark
  for each row execute function access_marked();

create function access_moved() returns trigger language plpgsql as $$
begin
  if exists (select from access_mark) then
    perform settle_access(array(select item_id from added where role = 'original'));
  end if;
  return null;
end $$;
create trigger settle_access_added after insert on file referencing new table as added
  for each statement execute function access_moved();
create function access_refiled() returns trigger language plpgsql as $$
begin
  if exists (select from access_mark) then
    perform settle_access(array(select a.item_id from added a join gone g on g.id = a.id
      where a.role = 'original' and (a.folder_id <> g.folder_id or g.role <> 'original')));
  end if;
  return null;
end $$;
create trigger settle_access_moved after update on file referencing old table as gone new table as added
  for each statement execute function access_refiled();

create function access_of_span() returns trigger language plpgsql as $$
begin
  perform settle_access(array(select id from added where of_id is not null));
  return null;
end $$;
create trigger settle_access_added after insert on item referencing new table as added
  for each statement execute function access_of_span();

create function access_collected() returns trigger language plpgsql as $$
begin
  if exists (select from access_mark where collection_id is not null) then
    perform settle_access(array(select item_id from touched));
  end if;
  return null;
end $$;
create trigger settle_access_added after insert on collection_item referencing new table as touched
  for each statement execute function access_collected();
create trigger settle_access_gone after delete on collection_item referencing old table as touched
  for each statement execute function access_collected();

create function access_regrouped() returns trigger language plpgsql as $$
begin
  if exists (select from access_mark where collection_id is not null) then
    perform settle_access(array(
      with recursive inside as (
        select new.id union select c.id from collection c join inside n on c.parent_id = n.id
      ) select ci.item_id from collection_item ci join inside n on n.id = ci.collection_id));
  end if;
  return null;
end $$;
create trigger settle_access after update of parent_id, deleted_at on collection
  for each row execute function access_regrouped();

create function access_folder_moved() returns trigger language plpgsql as $$
begin
  if exists (select from access_mark where folder_id is not null or place_id is not null) then
    perform settle_access(array(
      with recursive below as (
        select new.id union select d.id from folder d join below b on d.parent_id = b.id
      ) select f.item_id from file f join below b on b.id = f.folder_id where f.role = 'original'));
  end if;
  return null;
end $$;
create trigger settle_access after update of parent_id, place_id on folder
  for each row when (old.parent_id is distinct from new.parent_id or old.place_id <> new.place_id)
  execute function access_folder_moved();
`;
