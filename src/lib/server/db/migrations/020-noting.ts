/** What thousands of moves cost is mostly what is kept along with each of their rows. */
export const noting = `
-- Steps are noted along with their operation, in one transaction, and operations are never removed: a look-up for each
-- of ten thousand steps was a quarter of what noting them cost.
alter table operation_step drop constraint operation_step_operation_id_fkey;
-- One index instead of two: an item has one original, and any number of other files.
drop index file_item, file_one_original;
create unique index file_item on file (item_id, (case when role = 'original' then true end));
`;
