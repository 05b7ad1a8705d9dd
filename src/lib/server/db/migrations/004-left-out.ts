/** What a look at a source leaves out, with its reason. */
export const leftOut = `
alter table scan add column left_out jsonb not null default '[]';
`;
