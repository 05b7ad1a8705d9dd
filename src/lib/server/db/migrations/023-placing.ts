/**
 * Where items stand in collections is a key of an order: between two others there is room. Two may share one, when an
 * item comes back to a place another took meanwhile: then their catalogue numbers decide.
 */
export const placing = `
alter table collection_item alter column position type float8,
  drop constraint collection_item_collection_id_position_key;
create index collection_item_position on collection_item (collection_id, position);
`;
