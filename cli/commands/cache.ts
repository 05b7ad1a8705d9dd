import { ArchiveError } from '#core/errors';
import { formatBytes, counted } from '#core/text/quantities';
import { cacheShares, trimCache } from '#server/renditions/cache';
import { askToRemake } from '#server/renditions/remake';
import { answer, parse, type Command } from '../arguments';
import { openArchive, withWorker } from '../archive';
import { waitForJobs } from '../waiting';

const help = `Usage: ./mindful cache [--trim GB] [--rebuild] [--json]

Tells what the cache holds: pictures, tiles, pages and proxies that were made of originals and can be made again.

  --trim GB   let go of what was not looked at for the longest, down to so many gigabytes
  --rebuild   make all pictures that are not there, and try those again that could not be made
  --json      print the result as JSON`;

async function run(args: string[]): Promise<number> {
  const { values } = parse(args, {
    trim: { type: 'string' },
    rebuild: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const limit = values.trim === undefined ? null : Number(values.trim) * 1e9;
  if (limit !== null && !(limit >= 0))
    throw new ArchiveError('bad-request', `“${values.trim}” is no number of gigabytes.`);
  const archive = await openArchive();
  const { house } = archive;
  try {
    const gone = limit === null ? null : await trimCache(house, limit);
    const job = values.rebuild ? await askToRemake(house, null) : null;
    const rebuilt =
      job &&
      (await withWorker(house, () => waitForJobs(house, { jobs: [job] }, 'Making pictures')));
    const shares = await cacheShares(house);
    answer(values.json, { shares, gone, rebuilt }, () =>
      [
        ...shares.map(({ recipe, count, bytes }) => `${recipe}: ${count}, ${formatBytes(bytes)}`),
        ...(gone ? [`Let go: ${counted(gone.count, 'file')}, ${formatBytes(gone.bytes)}.`] : []),
        ...(values.rebuild && !job ? ['It is being rebuilt already.'] : []),
      ].join('\n'),
    );
    return rebuilt && rebuilt.failed > 0 ? 2 : 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = {
  summary: 'tell, trim and rebuild the cache of pictures',
  help,
  run,
};
