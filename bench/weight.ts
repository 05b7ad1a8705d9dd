import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { APPLICATION } from '#server/house/application';
import { machine, type BenchLine } from './report';

/** What a page's scripts weigh, compressed, as its build is. */
const GENERATED = '.svelte-kit/generated/client-optimized/nodes';
const CLIENT = join(APPLICATION, '.svelte-kit/output/client');
/** The wall, and the layouts around it. */
const WALL = ['routes/+layout.svelte', '(room)/+layout.svelte', '(room)/catalogue/+page.svelte'];
/** kB; what one waits for on a slow line. */
export const MOST_WEIGHT = 150;

interface Entry {
  file: string;
  imports?: string[];
}

/** Whether a node of the build is a component's of some route. */
function isNodeOf(key: string, routes: readonly string[]): boolean {
  if (!key.startsWith(GENERATED)) return false;
  const source = readFileSync(join(APPLICATION, key), 'utf8');
  return routes.some((route) => source.includes(`${route}"`) || source.includes(`${route}'`));
}

/** Scripts a page imports at once; what is opened later is loaded when it is opened. @returns bytes of all, compressed */
function weightOf(routes: readonly string[]): number {
  const manifest = JSON.parse(readFileSync(join(CLIENT, '.vite/manifest.json'), 'utf8')) as Record<
    string,
    Entry
  >;
  const found = new Map<string, number>();
  const take = (key: string): void => {
    const entry = manifest[key];
    if (!entry || found.has(entry.file) || !entry.file.endsWith('.js')) return;
    found.set(entry.file, gzipSync(readFileSync(join(CLIENT, entry.file)), { level: 9 }).length);
    entry.imports?.forEach(take);
  };
  for (const [key, { file }] of Object.entries(manifest))
    if (/\/entry\/(start|app)\./.test(file) || isNodeOf(key, routes)) take(key);
  return [...found.values()].reduce((sum, bytes) => sum + bytes, 0);
}

/** The wall's scripts, kB compressed; the floor is what they may weigh. */
export function pageWeight(): BenchLine {
  const ours = Math.round(weightOf(WALL) / 100) / 10;
  return {
    ...{
      bench: 'page',
      ours,
      floor: MOST_WEIGHT,
      ratio: Math.round((ours / MOST_WEIGHT) * 100) / 100,
    },
    ...{ unit: 'kB', n: 1, runs: 1, machine: machine() },
  };
}
