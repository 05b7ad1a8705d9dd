import { describe, expect, it } from 'vitest';
import { dependsOn, isAboutAny } from '#core/live/messages';
import { parseQuery } from '#core/query/grammar';
import { isOnTiles, TILE_FIELDS } from '#core/wire/result';
import { fieldOf } from '#core/fields/registry';

/** What a window asks for when others change something: what it shows, and no more. */
describe('a change of fields', () => {
  const depends = (query: string, ...fields: string[]): boolean =>
    dependsOn(parseQuery(query), fields);

  it('matters to a sentence that asks for them, orders or groups by them', () => {
    expect(depends('kind photo; order name', 'rating', 'unready', 'words')).toBe(false);
    expect(depends('rated 3..; order name', 'rating')).toBe(true);
    expect(depends('kind photo; order rating down', 'rating')).toBe(true);
    expect(depends('kind photo; group stage', 'stage')).toBe(true);
    expect(depends('words sail', 'words')).toBe(true);
    expect(depends('any (rated 3..; term Kite)', 'terms')).toBe(true);
  });

  it('matters to every window where files lie elsewhere, or anything may have changed', () => {
    for (const key of ['folder', 'file', 'access']) expect(depends('', key)).toBe(true);
    expect(depends('')).toBe(true);
  });

  it('matters to what a standing collection finds, but for what no sentence would be kept for', () => {
    expect(depends('collection "Kept"', 'title')).toBe(true);
    expect(depends('collection "Kept"', 'writing', 'bytes')).toBe(false);
  });

  it('is seen on tiles where a tile shows it', () => {
    for (const key of TILE_FIELDS) expect(fieldOf(key), key).toBeDefined();
    expect(isOnTiles(['writing', 'bytes'])).toBe(false);
    expect(isOnTiles(['caption', 'rating'])).toBe(true);
    expect(isOnTiles([])).toBe(true);
  });

  it('is of some items, or without ids of many', () => {
    expect(isAboutAny({ ids: ['a', 'b'] }, ['c', 'b'])).toBe(true);
    expect(isAboutAny({ ids: ['a'] }, ['c'])).toBe(false);
    expect(isAboutAny({ ids: [] }, [])).toBe(true);
  });
});
