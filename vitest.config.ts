import { defineConfig } from 'vitest/config';

/** Three projects: the core alone; the server on PostgreSQL and real files; the built application in a browser. */
export default defineConfig({
  test: {
    projects: [
      { test: { name: 'core', include: ['tests/core/**/*.test.ts'] } },
      {
        test: {
          name: 'server',
          include: ['tests/server/**/*.test.ts'],
          globalSetup: ['tests/support/cluster.ts'],
          testTimeout: 240_000,
          hookTimeout: 240_000,
          fileParallelism: false,
        },
      },
      {
        test: {
          name: 'browser',
          include: ['tests/browser/**/*.test.ts'],
          globalSetup: ['tests/support/running.ts'],
          setupFiles: ['tests/support/library.ts'],
          testTimeout: 240_000,
          hookTimeout: 240_000,
          fileParallelism: false,
          maxWorkers: 1,
        },
      },
    ],
  },
});
