/** Text for LIKE of SQL, with the characters that mean something to it taken as they are. */
export const likeText = (text: string): string => text.replace(/[\\%_]/g, '\\$&');
