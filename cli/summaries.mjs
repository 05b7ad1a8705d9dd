// @ts-check
/**
 * What each command is for, in a line: known before anything is installed.
 * @type {Record<string, string>}
 */
export const SUMMARIES = {
  demo: 'start with the demo library of Saltreach Kites',
  start: 'start; the first visit makes the first keeper',
  test: 'run every check and every test',
  worker: 'run one more worker',
  index: 'hold the archive in memory for the catalogue',
  check: 'compare the index with the database',
  intake: 'bring a folder in',
  find: 'list the items a query finds',
  set: 'describe the items a query finds',
  dates: 'set when items were taken',
  stamp: 'put a stamp onto the items a query finds',
  terms: 'the thesaurus in files, out and in',
  positions: 'set where items were taken',
  rename: 'rename the items a query finds',
  file: 'file the items a query finds by a plan',
  folder: 'make, rename, move and remove folders',
  access: 'who may see what, and why',
  spans: 'spans and markers of clips',
  discard: 'let items go into the wastebasket, and empty it',
  ledger: 'list what was done',
  undo: 'take back an operation of the ledger',
  show: 'show one item whole',
  verify: 'check files against their manifests',
  cache: 'tell, trim and rebuild the cache of pictures',
  bench: 'measure against a floor',
};

/** All commands, for who asks. */
export const overview = () =>
  [
    'Mindful Archive — the asset library of a creative team.',
    '',
    'Usage: ./mindful COMMAND [--help]',
    '',
    ...Object.entries(SUMMARIES).map(([name, summary]) => `  ${name.padEnd(8)} ${summary}`),
    '',
    'Settings come from the environment: MINDFUL_HOME, HOST, PORT, DATABASE_URL and more; see README.md.',
  ].join('\n');
