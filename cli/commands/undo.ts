import { undo } from '#server/deeds/undo';
import { ledger } from '#server/ledger/ledger';
import { ArchiveError } from '#core/errors';
import { answer, parse, type Command } from '../arguments';
import { openArchive } from '../archive';
import { operationDone } from '../waiting';

const help = `Usage: ./mindful undo [OPERATION] [--wait] [--json]

Takes back an operation of the ledger; without one, lists the last of them.`;

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    wait: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const archive = await openArchive();
  const { house } = archive;
  try {
    const [wished] = positionals;
    if (!wished) {
      const lines = await ledger(house.db, 0, 20);
      answer(values.json, lines, () =>
        lines.map((line) => `${line.id}  ${line.summary} (${line.state})`).join('\n'),
      );
      return 0;
    }
    if (!/^[0-9a-f-]{36}$/.test(wished))
      throw new ArchiveError('bad-request', `“${wished}” names no operation.`);
    const operation = await undo(house.db, null, wished);
    if (values.wait) await operationDone(house, operation, 'Undoing');
    answer(values.json, { operation }, () => `Undone by operation ${operation}.`);
    return 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'take back an operation', help, run };
