/**
 * Version of what is read from files: raised when the registry learns to read more, so that what older accessions did
 * not read is read again.
 */
export const READING = 4;
