import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { FORMATS } from '#core/kinds/kinds';
import { kindsTable } from '../support/kindsTable';

describe('the table of formats', () => {
  it('has one key and one name for each', () => {
    for (const key of ['key', 'name'] as const)
      expect(new Set(FORMATS.map((one) => one[key])).size).toBe(FORMATS.length);
  });

  it('is what the documentation says', () => {
    const docs = readFileSync(join(import.meta.dirname, '../../docs/kinds.md'), 'utf8');
    const squeezed = (text: string): string => text.replace(/ +/g, ' ');
    const told = docs.split('\n').map(squeezed);
    for (const line of kindsTable()) expect(told).toContain(squeezed(line));
    expect(told.filter((line) => /^\| [^-N]/.test(line))).toHaveLength(FORMATS.length);
  });
});
