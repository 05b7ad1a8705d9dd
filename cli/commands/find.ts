import { stringify } from 'csv-stringify/sync';
import { ArchiveError } from '#core/errors';
import { ALL_FIELDS, fieldOf, fieldsThatCan } from '#core/fields/registry';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { choicesOf } from '#server/catalogue/facets';
import { countOf } from '#server/catalogue/find';
import { rowsFound, type FoundRow } from '#server/catalogue/rows';
import { harmless } from '#core/text/cells';
import { resolve } from '#server/query/names';
import { answer, parse, type Command } from '../arguments';
import { openArchive } from '../archive';

const MOST = 1_000_000;
const USUAL = ['number', 'name', 'title'];
const FORMS = ['lines', 'json', 'csv', 'jsonl'] as const;

const help = `Usage: ./mindful find 'QUERY' [--fields A,B …] [--count] [--facets A,B …] [--limit N] [--json | --csv | --jsonl]

Lists the items a query finds, e.g. 'kind photo; in "Wind Week"; any (rated 4..; term Kite); order name'.
The grammar is in docs/query.md.

  --fields   what is told of each, of: ${ALL_FIELDS.filter(({ type }) => type !== 'words')
    .map(({ key }) => key)
    .join(', ')}
  --count    how many there are, and nothing else
  --facets   how many have which value of a field
  --csv      a table; --jsonl one JSON object a line; --json all in one`;

function fieldsNamed(text: string | undefined, usual: string[]): string[] {
  const keys =
    text
      ?.split(',')
      .map((key) => key.trim())
      .filter(Boolean) ?? usual;
  for (const key of keys)
    if (!fieldOf(key) || fieldOf(key)!.type === 'words')
      throw new ArchiveError(
        'bad-request',
        `There is no field “${key}”; ./mindful find --help lists them.`,
      );
  return keys;
}

const cell = (value: unknown): string =>
  Array.isArray(value)
    ? value.join('; ')
    : value === null || value === undefined
      ? ''
      : String(value);

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    limit: { type: 'string', default: String(MOST) },
    fields: { type: 'string' },
    facets: { type: 'string' },
    count: { type: 'boolean' },
    json: { type: 'boolean' },
    csv: { type: 'boolean' },
    jsonl: { type: 'boolean' },
  });
  const limit = Number(values.limit);
  if (!Number.isInteger(limit) || limit < 1)
    throw new ArchiveError('bad-request', '--limit takes a whole number from 1.');
  const form = FORMS.find((one) => one !== 'lines' && values[one]) ?? 'lines';
  const fields = fieldsNamed(
    values.fields,
    form === 'lines' ? USUAL : [...USUAL, 'kind', 'taken', 'rating', 'folder'],
  );
  const facets = fieldsNamed(values.facets, []);
  for (const key of facets)
    if (!fieldsThatCan('count').some((field) => field.key === key))
      throw new ArchiveError('bad-request', `The values of “${key}” are not counted.`);
  const query = parseQuery(positionals.join(' '));
  const archive = await openArchive();
  try {
    const { db } = archive.house;
    const { unknown } = await resolve(db, query);
    for (const { field, label } of unknown)
      console.error(`mindful: there is no ${field.of} “${label}”; it finds nothing.`);
    if (values.count && facets.length === 0) {
      const total = await countOf(db, HOUSE, query);
      answer(form !== 'lines', { total }, () => String(total));
      return 0;
    }
    if (facets.length > 0) {
      const total = await countOf(db, HOUSE, query);
      const found: Record<string, unknown> = {};
      const lines: string[] = [];
      for (const field of facets) {
        const told = await choicesOf(db, HOUSE, query, { field });
        found[field] = {
          lacking: told.lacking,
          values: told.choices.map(({ value, label, count }) => ({ value, label, count })),
          more: told.more,
        };
        for (const { label, count } of told.choices)
          if (count > 0) lines.push(`${field}\t${label}\t${count}`);
        lines.push(`${field}\t(none)\t${told.lacking}`);
      }
      answer(form !== 'lines', { total, facets: found }, () =>
        [...lines, `${total} items`].join('\n'),
      );
      return 0;
    }
    const items = await rowsFound(db, HOUSE, query, fields, { limit });
    const total = items.length < limit ? items.length : await countOf(db, HOUSE, query);
    tell(form, fields, items, total);
    return 0;
  } finally {
    await archive.close();
  }
}

function tell(
  form: (typeof FORMS)[number],
  fields: string[],
  items: FoundRow[],
  total: number,
): void {
  const plain = items.map(({ id, values }) => ({ id, ...values }));
  if (form === 'json') answer(true, { total, items: plain }, () => '');
  else if (form === 'jsonl')
    for (const one of plain) process.stdout.write(`${JSON.stringify(one)}\n`);
  else if (form === 'csv')
    process.stdout.write(
      stringify(
        items.map(({ values }) => fields.map((key) => harmless(cell(values[key])))),
        { header: true, columns: fields },
      ),
    );
  else
    answer(false, null, () =>
      [
        ...items.map(({ values }) =>
          fields
            .map((key) => cell(values[key]))
            .filter(Boolean)
            .join('  '),
        ),
        items.length < total ? `${items.length} of ${total} items` : `${total} items`,
      ].join('\n'),
    );
}

export const command: Command = { summary: 'list what a query finds', help, run };
