/** A second signature of each picture, by which cropped and brightened copies are found, and the order they were made in. */
export const signatures = `
alter table item add column signature bytea, add column look_no bigint;
create index item_look on item (look_no) where look_no is not null;
update item set look_no = nextval('change_number') where likeness is not null;
alter table scan_file add column signature bytea;
`;
