import { ArchiveError } from '#core/errors';
import { ACCESS, ACCESS_LABELS, SUBJECTS, type Access, type Subject } from '#core/access/access';
import { counted } from '#core/text/quantities';
import { accessOfItem, itemsUnder, markOf, sayAccess, subjectNamed } from '#server/access/access';
import { openArchive } from '../archive';
import { answer, parse, type Command } from '../arguments';

const help = `Usage: ./mindful access SUBJECT NAME [--set STATE] [--note TEXT] [--yes] [--json]

Tells who may see something, and why; with --set it says so. SUBJECT is place, folder, accession, collection or item;
NAME is its name: 'Studio shelf', 'Studio shelf/Brand', 2026.014, 'Festival book', 2026.014.0237. An item has the
strictest of all that is said of it and of what it lies in.

  --set STATE   open, dormant, restricted, waiting or closed; open takes back what was said
  --note TEXT   why, for those who ask
  --yes         do it; without it --set says what would change
  --json        print the result as JSON`;

const oneOf = <T extends string>(all: readonly T[], text: string | undefined, what: string): T => {
  const found = all.find((one) => one === text);
  if (!found) throw new ArchiveError('bad-request', `${what} is one of ${all.join(', ')}.`);
  return found;
};

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    set: { type: 'string' },
    note: { type: 'string' },
    yes: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const subject: Subject = oneOf(SUBJECTS, positionals[0], 'SUBJECT');
  const name = positionals[1];
  if (name === undefined) throw new ArchiveError('bad-request', 'Say of which: see --help.');
  const state: Access | null = values.set === undefined ? null : oneOf(ACCESS, values.set, 'STATE');
  const { house, close } = await openArchive();
  const { db } = house;
  try {
    const of = await subjectNamed(db, subject, name);
    if (state === null) {
      if (subject === 'item') {
        const told = await accessOfItem(db, of);
        answer(values.json, told, () => told.words);
        return 0;
      }
      const mark = await markOf(db, subject, of);
      const said = { subject, name, access: mark?.state ?? 'open', note: mark?.note ?? '' };
      answer(values.json, said, () =>
        mark
          ? `The ${subject} “${name}” is ${ACCESS_LABELS[mark.state]}${mark.note ? `: ${mark.note}` : ''}.`
          : `Nothing is said of the ${subject} “${name}”: it is open.`,
      );
      return 0;
    }
    const items = await itemsUnder(db, subject, of);
    const about = `${counted(items, 'item')} under the ${subject} “${name}”`;
    if (!values.yes) {
      answer(
        values.json,
        { subject, name, state, items },
        () =>
          `Would make ${about} ${ACCESS_LABELS[state]}, where nothing stricter is said. Add --yes to do it.`,
      );
      return 0;
    }
    const done = await sayAccess(db, null, { subject, of, state, note: values.note ?? '' });
    answer(
      values.json,
      { subject, name, state, items, operation: done?.operationId ?? null },
      () =>
        done
          ? `Operation ${done.operationId}: ${about} ${items === 1 ? 'is' : 'are'} ${ACCESS_LABELS[state]} now, where nothing stricter is said.`
          : `The ${subject} “${name}” is ${ACCESS_LABELS[state]} already.`,
    );
    return 0;
  } finally {
    await close();
  }
}

export const command: Command = { summary: 'who may see what, and why', help, run };
