import { defineConfig } from 'vitest/config';

/** Server tests that kill, count time or watch disks: nothing runs beside them. */
const ALONE = [
  ...['apart', 'disk', 'faults', 'folders', 'jobs', 'killed', 'killedMany', 'locks', 'pauses'],
  ...['pausing', 'places', 'postgres', 'share', 'statements', 'takenAway', 'turns', 'watching'],
].map((name) => `tests/server/${name}.test.ts`);

const slow = { testTimeout: 240_000, hookTimeout: 240_000 };
const server = { ...slow, globalSetup: ['tests/support/cluster.ts'] };

/** The core alone; the server on PostgreSQL and real files; the built application in a browser. One after the other. */
export default defineConfig({
  test: {
    projects: [
      { test: { name: 'core', include: ['tests/core/**/*.test.ts'] } },
      {
        test: {
          ...server,
          name: 'server',
          include: ['tests/server/**/*.test.ts'],
          exclude: ALONE,
          maxWorkers: 2,
          sequence: { groupOrder: 1 },
        },
      },
      {
        test: {
          ...server,
          name: 'server-alone',
          include: ALONE,
          fileParallelism: false,
          sequence: { groupOrder: 2 },
        },
      },
      {
        test: {
          ...slow,
          name: 'browser',
          include: ['tests/browser/**/*.test.ts'],
          globalSetup: ['tests/support/running.ts'],
          setupFiles: ['tests/support/library.ts'],
          fileParallelism: false,
          maxWorkers: 1,
          sequence: { groupOrder: 3 },
        },
      },
    ],
  },
});
