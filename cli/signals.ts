const PARENT_EVERY_MS = 1000;

/** Resolves when somebody ends us: Ctrl-C, a termination, or the death of the process that started us. */
export function untilTold(): Promise<void> {
  return new Promise((resolve) => {
    const parent = process.ppid;
    const timer = setInterval(() => {
      if (process.ppid !== parent) resolve();
    }, PARENT_EVERY_MS);
    // Waiting must not keep a process alive that failed to start.
    timer.unref();
    // Heard to the end: a terminal tells everybody at once, and whoever started us tells us again. A signal nobody
    // hears would end us in the middle of ending others.
    for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const)
      process.on(signal, () => {
        clearInterval(timer);
        resolve();
      });
  });
}
