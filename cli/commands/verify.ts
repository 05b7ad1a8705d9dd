import { ArchiveError } from '#core/errors';
import { counted } from '#core/text/quantities';
import { verify } from '#server/intake/report/verify';
import { answer, parse, type Command } from '../arguments';
import { openArchive } from '../archive';

const help = `Usage: ./mindful verify [ACCESSION] [--json]

Reads every file that the ASC MHL manifests list, e.g. of accession 2026.014, and compares. Files that were
described since are held against their record. Ends with 2 where something is damaged, missing or broken.`;

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, { json: { type: 'boolean' } });
  const [only = null] = positionals;
  if (only !== null && !/^\d{4}\.\d{3,9}$/.test(only))
    throw new ArchiveError('bad-request', `“${only}” is no accession number like 2026.014.`);
  const archive = await openArchive();
  try {
    const shows = process.stderr.isTTY && !values.json;
    const found = await verify(archive.house, only, (done, total) => {
      if (shows) process.stderr.write(`\r${done} of ${total} files `);
    });
    if (shows) process.stderr.write('\r');
    if (only !== null && found.manifests === 0)
      throw new ArchiveError('not-found', `There is no manifest of accession ${only}.`);
    const bad = [...found.broken, ...found.missing, ...found.damaged];
    answer(values.json, found, () =>
      [
        ...bad.map(({ accession, path, why }) => `${accession}  ${path}: ${why}`),
        `${counted(found.files, 'file')} in ${counted(found.manifests, 'manifest')}: ${found.good} as brought in, ` +
          `${found.described} described since, ${found.damaged.length} damaged, ${found.missing.length} missing, ` +
          `${found.away} in places that are away, ${found.letGo} removed for good by somebody.`,
      ].join('\n'),
    );
    return bad.length > 0 ? 2 : 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'check files against their manifests', help, run };
