import { readFileSync, readdirSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { describe, expect, expectTypeOf, it } from 'vitest';
import type { LedgerLine } from '#server/ledger/ledger';
import type { AnswerOf, BodyOf } from '../../src/lib/ui/common/wire';

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

  it('answers what the handler gives, as JSON has it, and nothing where there is no door', () => {
    // Checked by the compiler: what it would not take fails the types of this file.
    expectTypeOf<AnswerOf<'GET', '/api/ledger/undo'>[number]['summary']>().toEqualTypeOf<
      LedgerLine['summary']
    >();
    expectTypeOf<AnswerOf<'GET', '/api/ledger/undo'>[number]['at']>().toEqualTypeOf<string>();
    expectTypeOf<AnswerOf<'POST', `/api/ledger/${string}/undo`>['underway']>().toBeBoolean();
    expectTypeOf<AnswerOf<'GET', `/api/lists/terms/${string}`>>().toHaveProperty('entry');
    expectTypeOf<AnswerOf<'GET', '/api/nowhere'>>().toHaveProperty('there is no such door');
    expectTypeOf<AnswerOf<'DELETE', '/api/jobs'>>().toHaveProperty('there is no such door');
  });

  it('takes what the schema of the route takes, and nothing where the route takes nothing', () => {
    expectTypeOf<BodyOf<'POST', '/api/places'>>().toEqualTypeOf<{ name: string }>();
    expectTypeOf<BodyOf<'POST', `/api/ledger/${string}/undo`>>().toEqualTypeOf<{
      partly?: boolean | undefined;
    }>();
    expectTypeOf<BodyOf<'DELETE', `/api/collections/${string}`>>().toBeUndefined();
    expectTypeOf<BodyOf<'POST', '/api/nowhere'>>().toBeNever();
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
