import type { NewJob } from '../jobs/queue';

/** The job that folds the bursts of an accession; while one waits, a second is not added. */
export const burstsOf = (accessionId: string): NewJob => ({
  task: 'bursts',
  title: 'Finding frames that are nearly the same',
  subject: accessionId,
  accessionId,
});
