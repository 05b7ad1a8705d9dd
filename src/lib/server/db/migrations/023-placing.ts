/** Where items stand in collections is a key of an order: between two others there is always room. */
export const placing = `
alter table collection_item alter column position type float8;
`;
