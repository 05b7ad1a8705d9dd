import { readFileSync, readdirSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';
import ts from 'typescript';
import { describe, expect, it } from 'vitest';

/** What imports what in `src/lib`: files and rooms (folders) never in a circle, type imports included. */
const LIB = resolve(import.meta.dirname, '../../src/lib');

const SOURCES = readdirSync(LIB, { recursive: true, encoding: 'utf8' })
  .filter((path) => path.endsWith('.ts') || path.endsWith('.svelte'))
  .map((path) => join(LIB, path));
const KNOWN = new Set(SOURCES);

/** The script of a component is all that imports. */
const scriptOf = (path: string, text: string): string =>
  path.endsWith('.svelte') ? (/<script[^>]*>([\s\S]*?)<\/script>/.exec(text)?.[1] ?? '') : text;

function resolved(from: string, wish: string): string | null {
  const plain = wish.replace(/^#(core|server)\//, `${LIB}/$1/`).replace(/^\$lib\//, `${LIB}/`);
  const path = resolve(dirname(from), plain);
  return [path, `${path}.ts`].find((candidate) => KNOWN.has(candidate)) ?? null;
}

function importsOf(path: string): string[] {
  const text = scriptOf(path, readFileSync(path, 'utf8'));
  return ts
    .preProcessFile(text, true, true)
    .importedFiles.map(({ fileName }) => resolved(path, fileName))
    .filter((found) => found !== null);
}

type Graph = Map<string, Set<string>>;

/** Groups of nodes that reach each other (Tarjan 1972). */
function circles(graph: Graph): string[][] {
  const order = new Map<string, number>();
  const low = new Map<string, number>();
  const stack: string[] = [];
  const found: string[][] = [];
  const visit = (node: string): void => {
    order.set(node, order.size);
    low.set(node, order.get(node)!);
    stack.push(node);
    for (const next of graph.get(node) ?? []) {
      if (!order.has(next)) visit(next);
      if (stack.includes(next)) low.set(node, Math.min(low.get(node)!, low.get(next)!));
    }
    if (low.get(node) !== order.get(node)) return;
    const group = stack.splice(stack.indexOf(node));
    if (group.length > 1) found.push(group.sort());
  };
  for (const node of graph.keys()) if (!order.has(node)) visit(node);
  return found;
}

const files: Graph = new Map(SOURCES.map((path) => [path, new Set(importsOf(path))]));

function foldersOf(graph: Graph): Graph {
  const rooms: Graph = new Map();
  for (const [path, targets] of graph)
    for (const target of targets) {
      const [from, to] = [dirname(path), dirname(target)];
      if (from !== to) rooms.set(from, (rooms.get(from) ?? new Set()).add(to));
    }
  return rooms;
}

const named = (groups: string[][]): string[][] =>
  groups.map((group) => group.map((path) => relative(LIB, path)));

describe('rooms', () => {
  it('are seen with what they import', () => {
    expect(files.size).toBeGreaterThan(150);
    const imports = [...files.values()].reduce((sum, { size }) => sum + size, 0);
    expect(imports).toBeGreaterThan(files.size);
    expect(
      circles(
        new Map([
          ['a', new Set(['b'])],
          ['b', new Set(['c'])],
          ['c', new Set(['a'])],
        ]),
      ),
    ).toEqual([['a', 'b', 'c']]);
  });
  it('never import one another in a circle', () => {
    expect(named(circles(foldersOf(files)))).toEqual([]);
  });
  it('hold no files that import one another in a circle', () => {
    expect(named(circles(files))).toEqual([]);
  });
});
