import { readFileSync, readdirSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { describe, expect, it } from 'vitest';

const SRC = resolve(import.meta.dirname, '../../src');

describe('the wire', () => {
  it('names every route of the API with its module: a new one is a line', () => {
    const routes = readdirSync(join(SRC, 'routes/api'), { recursive: true, encoding: 'utf8' })
      .filter((path) => path.endsWith('+server.ts'))
      .map((path) => `/api/${dirname(path)}`)
      .sort();
    const text = readFileSync(join(SRC, 'wire.d.ts'), 'utf8');
    const told = [
      ...text.matchAll(/'(\/api\/[^']+)': typeof import\('\.\/routes([^']+)\/\+server'\)/g),
    ];
    expect(told.map(([, route]) => route).sort()).toEqual(routes);
    expect(told.filter(([, route, module]) => route !== module)).toEqual([]);
  });

  it('has no answer that is said a second time', () => {
    const client = readdirSync(join(SRC, 'lib/ui'), { recursive: true, encoding: 'utf8' })
      .filter((path) => /\.(ts|svelte)$/.test(path))
      .filter((path) =>
        /\bapi\s*\.(get|post|patch|put|delete)</.test(
          readFileSync(join(SRC, 'lib/ui', path), 'utf8'),
        ),
      );
    expect(client).toEqual([]);
  });
});
