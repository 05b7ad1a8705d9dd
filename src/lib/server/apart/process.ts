import workerpool from 'workerpool';
import type { ApartRun } from './apart';

/** The process in which files of others are parsed; ./apart starts and ends it, and says what it is to run. */
workerpool.worker({
  run: async (module: string, name: string, input: unknown): Promise<unknown> => {
    const { [name]: run } = (await import(`../${module}.ts`)) as Record<string, ApartRun>;
    return run!(input);
  },
});
