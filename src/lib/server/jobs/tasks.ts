/** What is to be known of a kind of background work; ../work/tasks holds what runs. */
export interface TaskKind {
  /** What is asked for while somebody waits goes first; smaller is sooner. */
  priority: number;
  /** Work that must not run beside others of this name. */
  queue?: 'intake' | 'operation';
  /** It looks between its steps whether somebody wants it to stop. */
  stoppable?: true;
  /** It is never left between two steps: what a cut left half done is settled before it stops. */
  endsInOrder?: true;
  /** Work with a lane of its own, however long the queue of everything else is: what other programs do, what people wait for. */
  lane?: 'watching' | 'deeds';
  /** It is told of only where it fails. */
  isQuiet?: true;
}

/** Every kind of background work. A new one is a line here and its function in ../work/tasks. */
const KINDS = {
  scan: { priority: -5, stoppable: true },
  intake: { priority: 0, queue: 'intake', stoppable: true },
  'empty-source': { priority: 0, queue: 'intake', stoppable: true },
  'compare-place': { priority: -3, stoppable: true, lane: 'watching' },
  fetch: { priority: -4, stoppable: true },
  pictures: { priority: 5 },
  tiles: { priority: -10, isQuiet: true },
  proxy: { priority: 10 },
  film: { priority: 8 },
  ends: { priority: 9, isQuiet: true },
  markers: { priority: 9, isQuiet: true },
  remake: { priority: 15, stoppable: true },
  bursts: { priority: 12 },
  'write-record': { priority: 0 },
  'write-records': { priority: 0, stoppable: true },
  'find-words': { priority: -1, stoppable: true },
  'read-again': { priority: 20, stoppable: true },
  operation: { priority: -2, queue: 'operation', stoppable: true, endsInOrder: true },
  stamp: { priority: -2, stoppable: true, lane: 'deeds' },
  deed: { priority: -2, stoppable: true, lane: 'deeds' },
} as const satisfies Record<string, TaskKind>;
export type TaskName = keyof typeof KINDS;
export const TASKS: Record<TaskName, TaskKind> = KINDS;
export const TASK_NAMES = Object.keys(TASKS) as TaskName[];

/** A kind of work by its name as the database has it; null: an older release knew it. */
export const taskNamed = (name: string): TaskKind | null =>
  Object.hasOwn(TASKS, name) ? TASKS[name as TaskName] : null;
