/** A row that changes mostly stays with its item: it is told once, not for what it was and what it is. */
const perItem = (table: string, columns: string[]): string => {
  const all = (rows: string): string =>
    columns
      .map((column) => `select 'item', ${column} from ${rows} where ${column} is not null`)
      .join(' union ');
  return `
create or replace function log_${table}() returns trigger language plpgsql as $$
begin
  if tg_op = 'INSERT' then insert into change_log (kind, subject) ${all('added')};
  elsif tg_op = 'DELETE' then insert into change_log (kind, subject) ${all('gone')};
  else insert into change_log (kind, subject) ${all('added')} union ${all('gone')}; end if;
  return null;
end $$;`;
};

/** Copies laid elsewhere as steps of the ledger, and what lies beside them. */
export const copying = `
-- What was copied along with a second copy: its sidecar, its parts.
alter table file drop constraint file_role_check,
  add check (role in ('original', 'companion', 'sidecar', 'part', 'second-copy', 'beside-copy'));
alter table operation_step drop constraint operation_step_action_check,
  add check (action in ('rename', 'record', 'rewrite', 'folder', 'move', 'entry', 'copy', 'uncopy'));
-- Steps of moves before this position were begun.
alter table operation add column begun integer not null default 0;
-- What a stamp is going to be put on, as it was shown, while the work waits or runs.
create table stamping (
  operation_id uuid primary key references operation on delete cascade,
  item_ids uuid[] not null,
  versions integer[] not null,
  lines jsonb not null
);
${perItem('file', ['item_id'])}
${perItem('item_term', ['item_id'])}
${perItem('collection_item', ['item_id'])}
${perItem('lineage', ['item_id', 'of_id'])}
`;
