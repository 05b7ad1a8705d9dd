/** Thousands of files that move at once: what each of their rows costs is mostly the keeping of its indexes. */
export const moving = `
-- Hashes are looked up whole, never in an order: a hash index takes a new entry at a third of the cost.
drop index file_content, file_essence, file_picture;
create index file_content on file using hash (content_hash);
create index file_essence on file using hash (essence_hash) where essence_hash is not null;
create index file_picture on file using hash (picture_key);
-- Files of a place are read all at once; nobody looks for one by its inode in SQL.
drop index file_inode;
create index file_place on file (place_id);
-- The unique names of a folder find its files as well.
drop index file_folder;

-- The primary key finds the steps of one operation, and their items those of files.
drop index operation_step_open, operation_step_file;
-- Room for what a step comes to, so that its indexes need not hear of it.
alter table operation_step set (fillfactor = 60);
create index operation_open on operation (id) where state in ('planned', 'doing');
-- The ledger is only added to, by rows read a moment before, and items and files are never taken out of the archive:
-- two locks and two look-ups a step were most of what noting it cost.
alter table operation_step drop constraint operation_step_item_id_fkey, drop constraint operation_step_file_id_fkey;
-- The log is pruned by its time, which is about the same for rows that lie together.
drop index change_log_at;
create index change_log_at on change_log using brin (at);
`;
