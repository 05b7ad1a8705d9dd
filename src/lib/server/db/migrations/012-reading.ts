/**
 * Main colours of pictures; and how much of a file was read when it was brought in: what later versions read besides
 * is read again in the background.
 */
export const reading = `
alter table item
  add column colours text[] not null default '{}',
  add column reading smallint not null default 0;
-- Empty folders may be removed, and given back.
alter table operation_step drop constraint operation_step_action_check,
  add check (action in ('rename', 'record', 'rewrite', 'folder'));
-- A place that goes away or comes back is one change, however many items lie in it.
create or replace function log_place() returns trigger language plpgsql as $$
begin
  insert into change_log (kind, subject) values ('folder', new.id);
  if new.here is distinct from old.here then
    insert into change_log (kind, subject) values ('place', new.id);
  end if;
  return null;
end $$;
create index item_reading on item (reading, id) where deleted_at is null;
`;
