/** Files into which nothing can be written are not tried again at every change; work says since when it is tried in vain. */
export const refused = `
alter table file add column refused_hash text;
alter table job add column tried_since timestamptz;
`;
