/**
 * First and last frames of spans, pictured: the moments of their clip, ms; none until they are, and where the clip has no
 * pictures. What a file's XMP told of markers when it was last read or written; null: it was not read yet.
 */
export const ends = `
alter table item add column first_ms integer, add column last_ms integer;
alter table file add column told_markers text[];
`;
