import { readdirSync } from 'node:fs';
import { resolve } from 'node:path';

/** Every route of the application, by its files. */
export const routes = [
  ...new Set(
    readdirSync(resolve(import.meta.dirname, '../../src/routes'), {
      recursive: true,
      encoding: 'utf8',
    })
      .filter((file) => /(^|\/)\+(page\.svelte|page\.server\.ts|server\.ts)$/.test(file))
      .map((file) => `/${file.replace(/\/?\+[^/]+$/, '')}`.replace(/\/\([^)]+\)/g, '') || '/'),
  ),
].sort();
