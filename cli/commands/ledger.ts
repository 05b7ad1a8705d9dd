import { pipeline } from 'node:stream/promises';
import { Readable } from 'node:stream';
import { ArchiveError } from '#core/errors';
import { counted } from '#core/text/quantities';
import { DEEDS } from '#core/deeds/kinds';
import { ledger, ledgerPeople } from '#server/ledger/ledger';
import { ledgerCsv, ledgerWishSchema } from '#server/ledger/export';
import { answer, parse, type Command } from '../arguments';
import { openArchive } from '../archive';

const help = `Usage: ./mindful ledger [--who NAME] [--kind KIND] [--from DAY] [--to DAY] [--about WORDS] [--csv] [--json]

Lists what was done to files, records and lists, the newest first; ./mindful undo takes a line back.

  --who NAME     of one person; none for the command line
  --kind KIND    record, rename, lists, folders, waste or empty
  --from, --to   first and last day, as 2026-09-12
  --about WORDS  words of what was done, or the beginning of a catalogue number
  --csv          every step with what was before and after`;

const MOST_LISTED = 100;

async function run(args: string[]): Promise<number> {
  const { values } = parse(args, {
    who: { type: 'string' },
    kind: { type: 'string' },
    from: { type: 'string' },
    to: { type: 'string' },
    about: { type: 'string' },
    csv: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const archive = await openArchive();
  const { db } = archive.house;
  try {
    const { who, kind, from, to, about } = values;
    const person =
      who === undefined || who === 'none'
        ? who
        : (await ledgerPeople(db)).find(({ name }) => name.toLowerCase() === who.toLowerCase())?.id;
    if (who !== undefined && person === undefined)
      throw new ArchiveError('not-found', `“${who}” has changed nothing.`);
    const parsed = ledgerWishSchema.safeParse({ who: person, kind, from, to, about });
    if (!parsed.success) {
      const issue = parsed.error.issues[0]!;
      throw new ArchiveError('bad-request', `--${issue.path.join('.')}: ${issue.message}`);
    }
    if (values.csv) {
      await pipeline(Readable.from(ledgerCsv(db, parsed.data)), process.stdout, { end: false });
      return 0;
    }
    const lines = await ledger(db, 0, MOST_LISTED, parsed.data);
    answer(values.json, lines, () =>
      lines
        .map(
          (line) =>
            `${line.id}  ${line.at.toISOString().slice(0, 16).replace('T', ' ')}  ${line.actor}: ${line.summary}, ${counted(line.total, DEEDS[line.kind].countedIn)}${line.undone ? ' (undone)' : line.state === 'done' ? '' : ` (${line.state})`}`,
        )
        .join('\n'),
    );
    return 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'list what was done', help, run };
