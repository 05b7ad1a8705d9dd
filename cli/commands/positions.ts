import { readFile, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { ArchiveError } from '#core/errors';
import { HOUSE } from '#core/sight/viewer';
import { USUAL_LIMITS } from '#core/positions/track';
import { NO_NAMES, SIDES, type Naming, type PositionWish } from '#core/positions/wish';
import { parseQuery } from '#core/query/grammar';
import { amountSeconds, parseAmount } from '#core/records/dates';
import { parseOffset } from '#core/records/taken';
import { findIds } from '#server/catalogue/find';
import type { House } from '#server/house/house';
import { positionsPreview, setPositions } from '#server/positions/positions';
import { keepTrack } from '#server/positions/tracks';
import { answer, parse, type Command } from '../arguments';
import { openArchive, withWorker } from '../archive';
import { waitForJobs } from '../waiting';

const help = `Usage: ./mindful positions 'QUERY' WISH [--names created,shown] [--yes] [--json]

Sets where the items a query finds were taken. Without --yes it shows every old and new position and changes nothing.
What is not known is not made up: such items stay where they are, and it says why. The ledger can undo it.

  --set POSITION       54.3207, 10.1349 or 54° 19′ 14″ N, 10° 8′ 6″ E; empty forgets it
  --track FILE.gpx     where a receiver was at their time
      --clock AMOUNT   added to their clocks, as 30s or --clock=-1m
      --zone OFFSET    of clocks that do not say theirs, as +01:00; UTC unless said
      --gap AMOUNT     nothing is interpolated across more (10m); --beyond AMOUNT holds its ends (2m)
      --over           also where there is a position already
  --neighbours AMOUNT  as what was taken nearest in time, at most so far
  --names SIDES        names of the place into the location fields: created, shown or both; blanks unless --rename
  --yes                do it, and wait until the files are written`;

const LARGEST_TRACK = 30_000_000;

type Values = Record<string, string | boolean | undefined>;
const textOf = (values: Values, name: string): string | null =>
  typeof values[name] === 'string' ? values[name] : null;

/** @throws ArchiveError bad-request */
function secondsOf(values: Values, name: string, usual: number): number {
  const text = textOf(values, name);
  if (text === null) return usual;
  const amount = parseAmount(text);
  if (!amount) throw new ArchiveError('bad-request', `“${text}” is no amount like 10m.`);
  return amountSeconds(amount);
}

/** @throws ArchiveError bad-request, file-unreadable */
async function wishOf(house: House, values: Values): Promise<PositionWish> {
  const [set, file, near] = ['set', 'track', 'neighbours'].map((name) => textOf(values, name));
  const said = [set, file, near].filter((one) => one !== null);
  if (said.length === 0 && values['names']) return { act: 'stay' };
  if (said.length !== 1)
    throw new ArchiveError('bad-request', 'Say one of --set, --track, --neighbours.');
  if (typeof set === 'string') return { act: 'set', text: set };
  if (typeof near === 'string')
    return { act: 'neighbours', minutes: Math.ceil(secondsOf(values, 'neighbours', 0) / 60) };
  const path = file!;
  const { size } = await stat(path).catch(() => {
    throw new ArchiveError('not-found', `There is no file “${path}”.`);
  });
  if (size > LARGEST_TRACK) throw new ArchiveError('file-unreadable', 'It is larger than 30 MB.');
  const track = await keepTrack(house.db, null, {
    name: basename(path),
    text: await readFile(path, 'utf8'),
  });
  const zone = textOf(values, 'zone') ?? 'Z';
  const offset = parseOffset(zone);
  if (offset === null) throw new ArchiveError('bad-request', `“${zone}” is no offset like +01:00.`);
  return {
    act: 'track',
    track: track.id,
    offset,
    over: values['over'] === true,
    clock: secondsOf(values, 'clock', 0),
    gap: secondsOf(values, 'gap', USUAL_LIMITS.gap),
    beyond: secondsOf(values, 'beyond', USUAL_LIMITS.beyond),
  };
}

/** @throws ArchiveError bad-request */
function namingOf(values: Values): Naming {
  const text = textOf(values, 'names');
  if (text === null) return NO_NAMES;
  const into = text.split(',').map((one) => SIDES.find((side) => side === one.trim()));
  if (into.some((one) => !one))
    throw new ArchiveError('bad-request', '--names takes created, shown or both.');
  return { into: into.filter((one) => one !== undefined), over: values['rename'] === true };
}

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    set: { type: 'string' },
    track: { type: 'string' },
    clock: { type: 'string' },
    zone: { type: 'string' },
    gap: { type: 'string' },
    beyond: { type: 'string' },
    over: { type: 'boolean' },
    neighbours: { type: 'string' },
    names: { type: 'string' },
    rename: { type: 'boolean' },
    yes: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const [queryText] = positionals;
  if (queryText === undefined)
    throw new ArchiveError(
      'bad-request',
      "Say of what: ./mindful positions 'QUERY' --set '54, 10'",
    );
  const naming = namingOf(values);
  const archive = await openArchive();
  const { house } = archive;
  try {
    const wish = await wishOf(house, values);
    const ids = await findIds(house.db, HOUSE, parseQuery(queryText));
    const seen = await positionsPreview(house.db, ids, wish, naming);
    if (!values.yes) {
      answer(values.json, seen, () =>
        [
          ...seen.lines.map(({ name, before, after, names, problem }) => {
            const told = problem ? `stays (${problem})` : after || 'no position';
            return `${name}: ${before || 'no position'} → ${told}${names ? `; ${names}` : ''}`;
          }),
          `${seen.changed} of ${seen.lines.length} would change. Add --yes to do it.`,
        ].join('\n'),
      );
      return 0;
    }
    const { fingerprint, problems } = seen;
    const done = await setPositions(house.db, null, ids, { wish, naming, fingerprint });
    if (done) await withWorker(house, () => waitForJobs(house, { items: ids }, 'Writing records'));
    answer(
      values.json,
      { operation: done?.operationId ?? null, changed: done?.changed ?? 0, problems },
      () => `${done?.changed ?? 0} of ${ids.length} positions set; ${problems} stay as they are.`,
    );
    return 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'set where items were taken', help, run };
