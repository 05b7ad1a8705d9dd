import { addPerson } from '#server/auth/people';
import type { House } from '#server/house/house';
import { buildIfChanged, serve } from '../cli/serve';
import { seed } from './archive';
import { machine, type BenchLine } from './report';

/** What one person can do to everybody's time: a plain page of somebody else, while one does the worst. */
const PORT = 22295;
const PASSWORD = 'rope and canvas';
/** Requests of the one who does his worst at once, as a script would send them. */
const AT_ONCE = 30;
const PAGES = 40;
const PAUSE_MS = 60;
/** The most a neighbour may wait, ms. */
const MOST_MS = 500;

const p95 = (times: number[]): number =>
  [...times].sort((a, b) => a - b)[Math.floor(times.length * 0.95)]!;

async function signIn(address: string, email: string): Promise<string> {
  const answer = await fetch(`${address}/sign-in`, {
    method: 'POST',
    redirect: 'manual',
    headers: { 'content-type': 'application/x-www-form-urlencoded', accept: 'text/html' },
    body: new URLSearchParams({ email, password: PASSWORD }).toString(),
  });
  return answer.headers
    .getSetCookie()
    .map((line) => line.split(';')[0]!)
    .join('; ');
}

/** Requests that cost much, one after the other: what is typed, all as a table, plans and cards of everything, nonsense. */
function* worst(address: string, cookie: string): Generator<() => Promise<unknown>> {
  const typed = 'box kitez dusk from last septembr without creditt use yes due XYZ '.repeat(30);
  const post = (path: string, body: unknown) => () =>
    fetch(address + path, {
      method: 'POST',
      headers: { 'content-type': 'application/json', cookie },
      body: JSON.stringify(body),
    }).then((answer) => answer.text());
  const get = (path: string) => () =>
    fetch(address + path, { headers: { cookie } }).then((answer) => answer.text());
  const all = { q: '', except: [] };
  for (let round = 0; ; round += 1) {
    yield get(`/api/catalogue/complete?typed=${encodeURIComponent(typed.slice(0, 1990))}`);
    yield post('/api/catalogue/csv', { ids: all, fields: ['name', 'title', 'taken'] });
    yield post('/api/records', { ids: all });
    yield get(`/api/catalogue/census?q=${encodeURIComponent(`rated ${round % 5}..`)}`);
    yield get(`/api/catalogue/ids?q=${encodeURIComponent('order name')}`);
    yield post('/api/rename/material', { ids: all, pattern: '{title}-{counter 0001}' });
    yield get(`/api/catalogue/choices?field=terms&typed=${'k'.repeat(30)}`);
    // Signed out, as large as anybody lets it be.
    yield () =>
      fetch(`${address}/sign-in`, {
        method: 'POST',
        headers: { 'content-type': 'application/x-www-form-urlencoded' },
        body: 'a&'.repeat(1 << 20),
      }).then((answer) => answer.text());
  }
}

/** ms each of some plain pages took. */
async function pages(address: string, cookie: string): Promise<number[]> {
  const times: number[] = [];
  for (let at = 0; at < PAGES; at += 1) {
    const began = performance.now();
    const answer = await fetch(`${address}/catalogue?q=${encodeURIComponent('rated 3..')}`, {
      headers: { cookie, accept: 'text/html' },
    });
    await answer.text();
    if (!answer.ok) throw new Error(`a page answered ${answer.status}`);
    times.push(performance.now() - began);
    await new Promise((resolve) => setTimeout(resolve, PAUSE_MS));
  }
  return times;
}

/** 95th percentile of a plain page, ms, beside one who does his worst; the floor is the same page without him. @param count items */
export async function neighbours(house: House, count: number, runs: number): Promise<BenchLine> {
  await buildIfChanged((line) => console.error(line));
  await seed(house, count, () => undefined);
  for (const name of ['plain', 'worst'])
    await addPerson(house.db, {
      name,
      email: `${name}@saltreach.example`,
      role: 'keeper',
      password: PASSWORD,
    });
  process.env['DATABASE_URL'] = house.databaseUrl;
  const { address, stop } = await serve({ ...house.settings, port: PORT, host: '127.0.0.1' });
  try {
    const plain = await signIn(address, 'plain@saltreach.example');
    const other = await signIn(address, 'worst@saltreach.example');
    const [ours, floor]: [number[], number[]] = [[], []];
    for (let run = 0; run < runs; run += 1) {
      floor.push(p95(await pages(address, plain)));
      let isOver = false;
      const asks = worst(address, other);
      const busy = Array.from({ length: AT_ONCE }, async () => {
        while (!isOver) await asks.next().value!().catch(() => undefined);
      });
      ours.push(p95(await pages(address, plain)));
      isOver = true;
      await Promise.all(busy);
    }
    const middle = (times: number[]): number =>
      [...times].sort((a, b) => a - b)[Math.floor(times.length / 2)]!;
    const round = (value: number): number => Math.round(value * 10) / 10;
    const [mine, theirs] = [middle(ours), middle(floor)];
    return {
      ...{ bench: 'neighbours', ours: round(mine), floor: round(theirs) },
      ...{ ratio: round(mine / theirs), unit: `ms, at most ${MOST_MS}`, n: count, runs },
      machine: machine(),
    };
  } finally {
    await stop();
  }
}
