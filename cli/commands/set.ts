import { ArchiveError } from '#core/errors';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { EMPTY_RECORD, FIELDS, type FieldKey, type RecordChange } from '#core/records/fields';
import { changeSchema } from '#core/records/schemas';
import { valueWritten } from '#core/records/written';
import { findIds } from '#server/catalogue/find';
import { applyChange, changeRecords } from '#server/records/records';
import { answer, parse, type Command } from '../arguments';
import { openArchive, withWorker } from '../archive';
import { waitForJobs } from '../waiting';

const help = `Usage: ./mindful set 'QUERY' FIELD=VALUE … [--wait] [--json]

Describes every item a query finds. Fields: ${Object.keys(FIELDS).join(', ')}.
Lists (creator, terms, persons …) take values parted by semicolons; terms+=A;B adds, terms-=A removes.
An empty value forgets. taken takes EDTF or a moment: taken=2026-09, taken="2026-09-12 19:42".

  --wait   wait until the files are written
  --json   print the result as JSON`;

const list = (text: string): string[] =>
  text
    .split(';')
    .map((part) => part.trim())
    .filter(Boolean);

/** `field=value` words as a change. @throws ArchiveError bad-request, value-refused */
function changeOf(words: string[]): RecordChange {
  const change: Record<string, unknown> = {};
  for (const word of words) {
    const match = /^([A-Za-z]+)([+-]?)=(.*)$/s.exec(word);
    if (!match) throw new ArchiveError('bad-request', `“${word}” is not of the form field=value.`);
    const [, field = '', sign, value = ''] = match;
    if (!(field in FIELDS))
      throw new ArchiveError(
        'bad-request',
        `There is no field “${field}”; there are ${Object.keys(FIELDS).join(', ')}.`,
      );
    if (sign && field !== 'terms')
      throw new ArchiveError('bad-request', `Only terms can be added or removed, not “${field}”.`);
    if (sign) change[sign === '+' ? 'addTerms' : 'removeTerms'] = list(value);
    else if (FIELDS[field as FieldKey].many) change[field] = list(value);
    else if (field === 'rating' && value === 'rejected') change[field] = -1;
    else change[field] = valueWritten(FIELDS[field as FieldKey], value);
  }
  const parsed = changeSchema.safeParse(change);
  if (!parsed.success) {
    const issue = parsed.error.issues[0]!;
    throw new ArchiveError('value-refused', `${issue.path.join('.')}: ${issue.message}`);
  }
  // Refuse what no record can hold before looking for items.
  applyChange(EMPTY_RECORD, parsed.data);
  return parsed.data;
}

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    wait: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const [queryText, ...words] = positionals;
  if (queryText === undefined || words.length === 0)
    throw new ArchiveError('bad-request', "Say what and how: ./mindful set 'QUERY' field=value");
  const query = parseQuery(queryText);
  const change = changeOf(words);
  const archive = await openArchive();
  const { house } = archive;
  try {
    const ids = await findIds(house.db, HOUSE, query);
    const done = await changeRecords(house.db, null, ids, change);
    const failed =
      values.wait && ids.length > 0
        ? (await withWorker(house, () => waitForJobs(house, { items: ids }, 'Writing records')))
            .failed
        : 0;
    answer(
      values.json,
      {
        found: ids.length,
        changed: done?.changed ?? 0,
        operation: done?.operationId ?? null,
        failed,
      },
      () => `${done?.changed ?? 0} of ${ids.length} items changed.`,
    );
    return failed > 0 ? 2 : 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'describe what a query finds', help, run };
