import { ArchiveError } from '#core/errors';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { parseAmount, type DateWish } from '#core/records/dates';
import { parseOffset } from '#core/records/taken';
import { findIds } from '#server/catalogue/find';
import { datesPreview, setDates } from '#server/records/dates';
import { answer, parse, type Command } from '../arguments';
import { openArchive, withWorker } from '../archive';
import { waitForJobs } from '../waiting';

const help = `Usage: ./mindful dates 'QUERY' WISH [--yes] [--json]

Sets when the items a query finds were taken, in its order. Without --yes it shows every old and new date and changes
nothing. What is not known is not made up: such items stay as they are, and it says why. The ledger can undo it.

  --shift AMOUNT    move by 1y 2mo 3d 4h 5m 6s; a minus goes back: --shift=-1h
  --zone OFFSET     set the offset from UTC, as +01:00; the clock stays, with --moment the moment does
  --read WHERE      read from the name, the original name or the folder; --pattern yyyyMMdd_HHmmss
  --spread START    give them times from 2026-09-12 10:00 on; --every SECONDS, 1 unless said
  --within DATE     give them times evenly within a day, a month …; empty: within what is known of each
  --yes             do it, and wait until the files are written`;

/** @throws ArchiveError bad-request */
function wishOf(values: Record<string, string | boolean | undefined>): DateWish {
  const text = (name: string): string | null =>
    typeof values[name] === 'string' ? values[name] : null;
  const [shift, zone, read, from, within] = ['shift', 'zone', 'read', 'spread', 'within'].map(text);
  if ([shift, zone, read, from, within].filter((one) => one !== null).length !== 1)
    throw new ArchiveError(
      'bad-request',
      'Say one of --shift, --zone, --read, --spread, --within.',
    );
  if (shift) {
    const amount = parseAmount(shift);
    if (!amount) throw new ArchiveError('bad-request', `“${shift}” is no amount like 1h 30m.`);
    return { act: 'shift', amount };
  }
  if (zone) {
    const offset = parseOffset(zone);
    if (offset === null)
      throw new ArchiveError('bad-request', `“${zone}” is no offset like +01:00.`);
    return { act: 'zone', offset, keeps: values['moment'] ? 'moment' : 'clock' };
  }
  if (read) {
    if (read !== 'name' && read !== 'original' && read !== 'folder')
      throw new ArchiveError('bad-request', 'Dates are read from name, original or folder.');
    return { act: 'read', from: read, pattern: text('pattern') ?? '' };
  }
  if (typeof within === 'string') return { act: 'spread', from: within, every: null };
  const every = Number(text('every') ?? 1);
  if (!(every > 0)) throw new ArchiveError('bad-request', '--every takes seconds.');
  return { act: 'spread', from: from ?? '', every };
}

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    shift: { type: 'string' },
    zone: { type: 'string' },
    moment: { type: 'boolean' },
    read: { type: 'string' },
    pattern: { type: 'string' },
    spread: { type: 'string' },
    within: { type: 'string' },
    every: { type: 'string' },
    yes: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const [queryText] = positionals;
  if (queryText === undefined)
    throw new ArchiveError('bad-request', "Say of what: ./mindful dates 'QUERY' --shift 1h");
  const wish = wishOf(values);
  const archive = await openArchive();
  const { house } = archive;
  try {
    const ids = await findIds(house.db, HOUSE, parseQuery(queryText));
    const seen = await datesPreview(house.db, ids, wish);
    if (!values.yes) {
      answer(values.json, seen, () =>
        [
          ...seen.lines.map(
            ({ name, before, after, problem }) =>
              `${name}: ${before || 'no date'} → ${problem ? `stays (${problem})` : after}`,
          ),
          `${seen.changed} of ${seen.lines.length} would change. Add --yes to do it.`,
        ].join('\n'),
      );
      return 0;
    }
    const done = await setDates(house.db, null, ids, wish, seen.fingerprint);
    if (done) await withWorker(house, () => waitForJobs(house, { items: ids }, 'Writing records'));
    answer(
      values.json,
      {
        operation: done?.operationId ?? null,
        changed: done?.changed ?? 0,
        problems: seen.problems,
      },
      () => `${done?.changed ?? 0} of ${ids.length} dates set; ${seen.problems} stay as they are.`,
    );
    return 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'set when items were taken', help, run };
