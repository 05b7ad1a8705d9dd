import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';

const NAME = '"name": "mindful-archive"';

/** Folder of the application, found from wherever this module lies: in the sources or in the build. */
function applicationFolder(): string {
  for (let at = import.meta.dirname; at !== dirname(at); at = dirname(at)) {
    const path = join(at, 'package.json');
    if (existsSync(path) && readFileSync(path, 'utf8').includes(NAME)) return at;
  }
  return process.cwd();
}

export const APPLICATION = applicationFolder();
