import { HOUSE } from '#core/sight/viewer';
import { ArchiveError } from '#core/errors';
import { parseNumber } from '#core/catalogue/number';
import { itemByNumber, showItem } from '#server/catalogue/show';
import { answer, parse, type Command } from '../arguments';
import { openArchive } from '../archive';

const help = `Usage: ./mindful show NUMBER [--json]

Shows one item: record, files, renditions, and the state of each job.`;

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, { json: { type: 'boolean' } });
  const [number = ''] = positionals;
  if (!parseNumber(number))
    throw new ArchiveError('bad-request', `“${number}” is no catalogue number like 2026.014.0237.`);
  const archive = await openArchive();
  try {
    const shown = await showItem(
      archive.house.db,
      { role: 'keeper' },
      await itemByNumber(archive.house.db, HOUSE, number),
    );
    answer(values.json, shown, () => JSON.stringify(shown, null, 2));
    return 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'show one item whole', help, run };
