/** What a tool complained of a file without a picture, beside the plain words. */
export const reasons = `
alter table item add column no_picture_detail text;
`;
