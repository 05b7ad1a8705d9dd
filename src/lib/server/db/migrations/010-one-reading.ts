/**
 * One reading for all: what a look at a source read is used again while the source is unchanged, and what is known
 * of a file is written into its copy before that is put in place.
 */
export const oneReading = `
alter table scan_file add column looked jsonb;
alter table accession_entry add column looked jsonb, add column placed jsonb;
`;
