import { realpathSync } from 'node:fs';
import { basename, join, resolve } from 'node:path';
import { ArchiveError } from '#core/errors';
import { suggestBundles } from '#core/intake/bundles';
import { makeFolder, isFolder } from '#server/files/disk';
import { startAccession } from '#server/intake/plan/accession';
import { bundled, filesToBring, type WishedFile } from '#server/intake/sources/files';
import { accessions, leftOver } from '#server/intake/report/accessions';
import { alikeIn } from '#server/intake/report/report';
import { addPlace, placeByName, type Place } from '#server/places/places';
import type { House } from '#server/house/house';
import { answer, parse, type Command } from '../arguments';
import { openArchive, withWorker } from '../archive';
import { waitForJobs } from '../waiting';

const help = `Usage: ./mindful intake PATH --place NAME [--copy | --move | --in-place] [options]

Brings a folder in as one accession. A place that does not exist is made: for --in-place the folder itself
becomes the place, for --copy a folder in the data folder's holdings.

  --place NAME     the place to file in
  --copy           copy and verify (default)
  --move           copy and verify, then delete each source file
  --in-place       keep the files where they are; not a byte is touched
  --second NAME    a second verified copy in another place
  --single-copy    after a move one copy will do
  --describe       where a picture is held, let its item take over what the file says of it
  --bundles        layout folders and web folders come in as one item each
  --filing TEXT    filing pattern, default "{taken yyyy}/{taken yyyy-MM-dd}"
  --naming TEXT    name pattern, default "{name}"
  --terms A,B      terms to give
  --title TEXT     title of the accession
  --wait           wait until everything is in, pictures too, and tell twins and lookalikes
  --json           print the result as JSON

Ends with 0 where everything came in or is held already, 2 where files failed, 3 where the accession halted before
its end (its reason is printed; ./mindful intake is not needed again: it goes on under Underway), 1 for anything else.`;

const SOME_FAILED = 2;
const HALTED = 3;

async function placeFor(
  house: House,
  name: string,
  root: string,
  inPlace: boolean,
): Promise<Place> {
  const known = await placeByName(house.db, name);
  if (known) return known;
  if (inPlace) return addPlace(house, name, root);
  const folder = join(house.folders.holdings, name);
  await makeFolder(folder);
  return addPlace(house, name, folder);
}

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    place: { type: 'string' },
    copy: { type: 'boolean' },
    'in-place': { type: 'boolean' },
    move: { type: 'boolean' },
    second: { type: 'string' },
    'single-copy': { type: 'boolean' },
    bundles: { type: 'boolean' },
    describe: { type: 'boolean' },
    filing: { type: 'string', default: '{taken yyyy}/{taken yyyy-MM-dd}' },
    naming: { type: 'string', default: '{name}' },
    terms: { type: 'string', default: '' },
    title: { type: 'string' },
    wait: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const [path] = positionals;
  if (!path || positionals.length > 1 || !values.place)
    throw new ArchiveError(
      'bad-request',
      'Say what to bring in and where: ./mindful intake PATH --place NAME',
    );
  if ([values.copy, values.move, values['in-place']].filter(Boolean).length > 1)
    throw new ArchiveError(
      'bad-request',
      'Choose --copy, --move or --in-place, not more than one.',
    );
  if (!(await isFolder(resolve(path))))
    throw new ArchiveError('not-found', `“${path}” is no folder.`);
  const root = realpathSync(resolve(path));
  const archive = await openArchive();
  const { house } = archive;
  try {
    const inPlace = values['in-place'] === true;
    const found = await filesToBring(root);
    const files: WishedFile[] = values.describe
      ? found.map((file) => ({ ...file, decision: 'describe' }))
      : found;
    const place = await placeFor(house, values.place, root, inPlace);
    const started = await startAccession(house, {
      title: values.title ?? basename(root),
      source: { kind: 'folder', name: root },
      root,
      mode: inPlace ? 'in-place' : values.move ? 'move' : 'copy',
      singleCopy: values['single-copy'] === true,
      place,
      plan: {
        filing: values.filing,
        naming: values.naming,
        terms: values.terms
          .split(',')
          .map((term) => term.trim())
          .filter(Boolean),
        secondCopyId: values.second ? (await placeFor(house, values.second, root, false)).id : null,
      },
      files: values.bundles
        ? bundled(
            files,
            suggestBundles(files.map(({ path: one }) => one)).map(({ folder }) => folder),
          )
        : files,
      actorId: null,
    });
    if (values.wait)
      await withWorker(house, () =>
        waitForJobs(house, { jobs: [started.jobId] }, `Accession ${started.number}`),
      );
    const [line] = await accessions(house.db, 1, started.id);
    const left = await leftOver(house.db, started.id);
    const alike = values.wait ? await alikeIn(house.db, started.id) : [];
    const halted = values.wait === true && line!.state !== 'done';
    const counts = `${line!.done} brought in, ${line!.skipped} left out, ${line!.failed} failed, ${line!.open} not reached`;
    answer(values.json, { ...line, accession: started.number, halted, left, alike }, () => {
      if (!values.wait) return `Accession ${started.number} is in the queue: ${line!.open} files.`;
      const end = halted
        ? `halted (${line!.state}): ${line!.reason ?? 'somebody stopped it'}`
        : 'done';
      const ties = alike.map(({ number, kind, of }) => `\n${number} is a ${kind} ${of}`).join('');
      return `Accession ${started.number} is ${end}\n${counts}.${ties}`;
    });
    if (halted) return HALTED;
    return line!.failed > 0 ? SOME_FAILED : 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'bring a folder in', help, run };
