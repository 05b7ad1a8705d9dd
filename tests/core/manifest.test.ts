import { createHash } from 'node:crypto';
import { execFileSync } from 'node:child_process';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  c4Of,
  canList,
  formatChain,
  formatManifest,
  manifestName,
  parseChain,
  parseManifest,
  type MhlHash,
  type MhlManifest,
} from '#core/manifest/mhl';

const second = fc
  .integer({ min: 0, max: 4_000_000_000 })
  .map((seconds) => new Date(seconds * 1000));
const path = fc.string({ unit: 'grapheme', minLength: 1 }).filter(canList);
const hash: fc.Arbitrary<MhlHash> = fc.record({
  path,
  size: fc.nat(),
  modified: second,
  xxh128: fc
    .uint8Array({ minLength: 16, maxLength: 16 })
    .map((bytes) => Buffer.from(bytes).toString('hex')),
  action: fc.constantFrom('original' as const, 'verified' as const, 'failed' as const),
  hashed: second,
});
const MANIFEST: MhlManifest = {
  created: new Date('2026-09-12T18:42:07Z'),
  hostname: 'shelf',
  tool: 'Mindful Archive',
  toolVersion: '0.1.0',
  author: 'Odile Marchetti',
  process: 'transfer',
  comment: 'Accession 2026.014',
  hashes: [
    {
      path: 'Wind Week/Käthe & <Co> "1".jpg',
      size: 5,
      modified: new Date('2026-09-12T10:00:00Z'),
      xxh128: '99aa06d3014798d86001c324468d497f',
      action: 'original',
      hashed: new Date('2026-09-12T18:42:01Z'),
    },
  ],
};

describe('manifests (ASC MHL 2.0)', () => {
  it('read back what they write', () => {
    expect(parseManifest(formatManifest(MANIFEST))).toEqual(MANIFEST);
    fc.assert(
      fc.property(fc.array(hash, { minLength: 1, maxLength: 8 }), (hashes) => {
        expect(parseManifest(formatManifest({ ...MANIFEST, hashes })).hashes).toEqual(hashes);
      }),
    );
  });

  it('are well formed and name what the standard names, says another reader', () => {
    const xml = formatManifest(MANIFEST);
    const ask = (xpath: string): string =>
      execFileSync('xmllint', ['--xpath', xpath, '-'], { input: xml, encoding: 'utf8' }).trim();
    const at = (...names: string[]): string =>
      names.map((name) => `/*[local-name()="${name}"]`).join('');
    expect(ask('namespace-uri(/*)')).toBe('urn:ASC:MHL:v2.0');
    expect(ask(`string(${at('hashlist', 'hashes', 'hash', 'path')})`)).toBe(
      'Wind Week/Käthe & <Co> "1".jpg',
    );
    expect(ask(`string(${at('hashlist', 'hashes', 'hash', 'xxh128')}/@action)`)).toBe('original');
    expect(ask(`string(${at('hashlist', 'creatorinfo', 'creationdate')})`)).toBe(
      '2026-09-12T18:42:07+00:00',
    );
    expect(ask(`string(${at('hashlist', 'processinfo', 'process')})`)).toBe('transfer');
  });

  it('refuse what is none, saying where', () => {
    for (const [xml, where] of [
      ['<not closed', 'no XML'],
      ['<a/>', 'hashlist'],
      [formatManifest(MANIFEST).replace('version="2.0"', 'version="1.0"'), '@version'],
      [formatManifest(MANIFEST).replace('99aa', 'zzzz'), 'xxh128'],
      [formatManifest(MANIFEST).replace(/2026-09-12T10[^"]+/, 'yesterday'), 'yesterday'],
    ] as const)
      expect(() => parseManifest(xml)).toThrow(
        expect.objectContaining({
          code: 'file-unreadable',
          message: expect.stringContaining(where) as string,
        }),
      );
  });

  it('do not try to list names that XML cannot hold', () => {
    for (const name of ['bell\x07', 'a\nb', '\ud800', 'x\ufffe']) expect(canList(name)).toBe(false);
    for (const name of ['凧.jpg', '&<>"\'', 'caf\uf7e9', '\u{1fa81}'])
      expect(canList(name)).toBe(true);
  });

  it('are named by generation, folder and moment', () => {
    expect(manifestName(3, 'Studio shelf / a', MANIFEST.created)).toBe(
      '0003_Studio_shelf_a_2026-09-12_184207Z.mhl',
    );
  });
});

describe('the chain', () => {
  it('reads back what it writes, also when empty', () => {
    const c4 = c4Of(createHash('sha512').update('a manifest').digest());
    const generations = [1, 2, 3].map((sequence) => ({ sequence, path: `${sequence}.mhl`, c4 }));
    for (const some of [generations, generations.slice(0, 1)])
      expect(parseChain(formatChain(some))).toEqual(some);
    expect(() => parseChain('<x/>')).toThrow();
  });

  it('names manifests by C4 (the ID of nothing is known)', () => {
    expect(c4Of(createHash('sha512').update('').digest())).toBe(
      'c459dsjfscH38cYeXXYogktxf4Cd9ibshE3BHUo6a58hBXmRQdZrAkZzsWcbWtDg5oQstpDuni4Hirj75GEmTc1sFT',
    );
    expect(c4Of(new Uint8Array(64))).toBe(`c4${'1'.repeat(88)}`);
  });
});
