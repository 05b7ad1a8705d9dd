/**
 * What the process of the index is begun with besides the usual: two threads and the database's driver take and give back
 * large pieces all day, of which every further arena of the C library keeps some.
 */
export const INDEX_ENVIRONMENT = { MALLOC_ARENA_MAX: '2' };
/** What an answer takes is gone with it: more room for what is young (in MB) would only be kept. */
export const INDEX_FLAGS = ['--max-semi-space-size=4'];
