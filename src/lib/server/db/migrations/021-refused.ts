/** Files into which nothing can be written are not tried again at every change; work says since when it is tried in vain. */
export const refused = `
alter table file add column refused_hash text;
alter table job add column tried_since timestamptz;
-- Tokens end; those that were made before go on until they are revoked.
alter table api_token add column expires_at timestamptz;
-- A track belongs to whoever brought it: two may bring the same.
alter table track drop constraint track_hash_key;
create unique index track_own on track (hash, brought_by) nulls not distinct;
`;
