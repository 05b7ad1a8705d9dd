/** A system watches only so many folders: a place of which it refused some says so. */
export const deaf = `
alter table place add column deaf text;
`;
