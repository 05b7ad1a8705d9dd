/** What is told of a row with a name: that it came or went, and what it is found by. Its other columns matter to no count. */
const renamed = (table: string, columns: string[]): string => {
  const row = (name: string): string => `(${columns.map((one) => `${name}.${one}`).join(', ')})`;
  return `
drop trigger log_named on ${table};
create trigger log_named after insert or delete on ${table} for each row execute function log_named();
create trigger log_renamed after update on ${table} for each row
  when (row${row('new')} is distinct from row${row('old')}) execute function log_named();`;
};

/** An intake that goes on, or a place that was compared, is no change of names: nobody counts anew. */
export const renaming = `
${renamed('folder', ['name', 'path', 'parent_id', 'place_id'])}
${renamed('term', ['label'])}
${renamed('stage', ['name', 'position'])}
${renamed('collection', ['name', 'kind', 'query', 'deleted_at'])}
${renamed('accession', ['year', 'number', 'title'])}
${renamed('person', ['name'])}
create or replace function log_place() returns trigger language plpgsql as $$
begin
  if new.name is distinct from old.name then
    insert into change_log (kind, subject) values ('folder', new.id);
  end if;
  if new.here is distinct from old.here then
    insert into change_log (kind, subject) values ('place', new.id);
  end if;
  return null;
end $$;
`;
