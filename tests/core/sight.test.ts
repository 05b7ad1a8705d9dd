import { describe, expect, it } from 'vitest';
import { parseQuery } from '#core/query/grammar';
import { ACCESS, accessInWords, MAY, PURPOSES, strictest, type Said } from '#core/access/access';
import { HOUSE, nodesOfSight, sightOf, sightOfQuery, type Viewer } from '#core/sight/viewer';

/** The table as people are told it: a letter for each who may list, show, play and take. */
const TOLD = `
open        kctrg kctrg kctrg kctrg
dormant     kctr  kctr  kctr  kctr
restricted  kctr  kctr  kr    kr
waiting     kr    kr    k     k
closed      k     k     k     k`;
const LETTERS = { keeper: 'k', contributor: 'c', teammate: 't', 'rights-desk': 'r', guest: 'g' };

describe('who may see what', () => {
  it('is one table', () => {
    const told = ACCESS.map((state) =>
      [
        state,
        ...PURPOSES.map((purpose) => MAY[state][purpose].map((who) => LETTERS[who]).join('')),
      ].join(' '),
    );
    expect(told).toEqual(
      TOLD.trim()
        .split('\n')
        .map((line) => line.replace(/ +/g, ' ')),
    );
  });

  it('never grows with what one wants to do, nor with a stricter state', () => {
    for (const state of ACCESS)
      for (const [at, purpose] of PURPOSES.entries())
        for (const who of MAY[state][purpose])
          if (at > 0) expect(MAY[state][PURPOSES[at - 1]!]).toContain(who);
    expect(strictest(['dormant', 'closed', 'restricted'])).toBe('closed');
    expect(strictest([])).toBe('open');
  });

  it('shows what waits to who brought it, a room to its guests, and lets no file out by a token', () => {
    const bea: Viewer = { role: 'contributor', id: 'bea' };
    expect(sightOf(bea, 'list')).toMatchObject({
      own: 'bea',
      states: ['open', 'dormant', 'restricted'],
    });
    expect(sightOf({ role: 'keeper', id: 'odile' }, 'take')).toBeNull();
    expect(sightOf({ role: 'keeper', id: 'odile', scopes: ['read'] }, 'take')).toMatchObject({
      states: [],
      own: null,
    });
    expect(sightOf({ role: 'guest', room: 'wall' }, 'show')).toEqual({
      states: ['open'],
      own: null,
      room: 'wall',
    });
    expect(sightOf(HOUSE, 'take')).toBeNull();
  });

  it('leaves what is dormant out of the way, unless one asks for it', () => {
    const keeper: Viewer = { role: 'keeper', id: 'odile' };
    expect(sightOfQuery(keeper, parseQuery('rated 3..'))!.states).not.toContain('dormant');
    expect(sightOfQuery(keeper, parseQuery('access dormant'))).toBeNull();
    expect(sightOfQuery(keeper, parseQuery('any(access dormant; rated 3..)'))).toBeNull();
    expect(sightOfQuery({ role: 'teammate' }, parseQuery('access closed'))!.states).toEqual([
      'open',
      'dormant',
      'restricted',
    ]);
  });

  it('asks nothing of items where all of them are seen', () => {
    const sight = sightOf({ role: 'teammate', id: 'jonas' }, 'list');
    expect(nodesOfSight(sight, ['open', 'restricted'])).toEqual([]);
    expect(nodesOfSight(sight, ['open', 'closed'])).toHaveLength(1);
    expect(nodesOfSight(sight, null)).toHaveLength(1);
    expect(nodesOfSight({ states: ['open'], own: null, room: 'r' }, ['open'])).toEqual([
      { field: 'collection', test: 'is', values: ['#r'] },
    ]);
  });

  it('is explained: what decides, and what is milder', () => {
    const said = (
      subject: Said['subject'],
      name: string,
      state: Said['state'],
      note = '',
    ): Said => ({ subject, name, state, note });
    expect(accessInWords([])).toBe('It is open: nothing says otherwise.');
    expect(
      accessInWords([
        said('place', 'Studio shelf', 'restricted'),
        said('folder', 'Studio shelf/Brand', 'closed', 'until the launch'),
      ]),
    ).toBe(
      'It is closed, as the folder “Studio shelf/Brand” (until the launch) says; the place “Studio shelf” says restricted, which is milder.',
    );
    expect(
      accessInWords([
        said('item', '2026.001.0001', 'waiting'),
        said('accession', '2026.001', 'waiting'),
      ]),
    ).toBe('It is waiting for review, as the item itself and the accession “2026.001” say.');
  });
});
