import { execFileSync, spawn } from 'node:child_process';
import { once } from 'node:events';
import { join } from 'node:path';
import { addPerson } from '#server/auth/people';
import { APPLICATION } from '#server/house/application';
import type { House } from '#server/house/house';
import { buildIfChanged, serve } from '../cli/serve';
import { seed } from './archive';
import { machine, type BenchLine } from './report';

/** What one person can do to everybody's time: a plain page of somebody else, while one does the worst. */
const PORT = 22295;
const PASSWORD = 'rope and canvas';
const PAGES = 25;
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

const WORST = join(APPLICATION, 'bench/worst.js');
/** Whoever does his worst sits at a machine of his own: what he needs to ask must not be taken from ours. */
const NICE = '19';

/** While somebody asks for some kinds of what costs much, as often as a script would. */
async function beside<T>(
  given: [address: string, cookie: string],
  kinds: string[],
  act: () => Promise<T>,
): Promise<T> {
  const other = spawn('nice', ['-n', NICE, process.execPath, WORST, ...given, ...kinds]);
  try {
    return await act();
  } finally {
    other.kill('SIGKILL');
    await once(other, 'exit');
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
    const kinds = execFileSync(process.execPath, [WORST]).toString().trim().split(' ');
    const waited = async () => p95(await pages(address, plain));
    await waited();
    for (const kind of kinds)
      console.error(
        `beside ${kind}: ${Math.round(await beside([address, other], [kind], waited))} ms`,
      );
    for (let run = 0; run < runs; run += 1) {
      floor.push(await waited());
      ours.push(await beside([address, other], kinds, waited));
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
