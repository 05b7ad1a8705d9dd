/** First and last frames of spans, pictured: the moments of their clip, ms; none until they are, and where the clip has no pictures. */
export const ends = `
alter table item add column first_ms integer, add column last_ms integer;
`;
