import { ArchiveError } from '#core/errors';
import { ALL_FIELDS, can } from '#core/fields/registry';
import { HOUSE } from '#core/sight/viewer';
import { formatQuery } from '#core/query/grammar';
import { EVERYTHING, has, is, not, refTo, type Node, type Query } from '#core/query/tree';
import { choicesOf } from '#server/catalogue/facets';
import { wallOf } from '#server/catalogue/find';
import { answerFrom } from '#server/index/answer';
import { LivingIndex } from '#server/index/living';
import { answer, parse, type Command } from '../arguments';
import { openArchive } from '../archive';

const help = `Usage: ./mindful check index [--queries N] [--json]

Builds the index of this archive anew and compares what it says with what the database says: totals, groups and
the choices of every field, over N queries made of values the archive holds (40 unless said).
Ends with 1 where they differ.`;

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    queries: { type: 'string', default: '40' },
    json: { type: 'boolean' },
  });
  if (positionals[0] !== 'index')
    throw new ArchiveError(
      'bad-request',
      'What can be checked is the index: ./mindful check index',
    );
  const wished = Number(values.queries);
  if (!Number.isInteger(wished) || wished < 1)
    throw new ArchiveError('bad-request', '--queries takes a whole number from 1.');
  const archive = await openArchive();
  try {
    const { db } = archive.house;
    const living = new LivingIndex(db, archive.house.pool);
    await living.build();
    const counted = ALL_FIELDS.filter(
      (field) =>
        can(field, 'count') && !['yes-no', 'position', 'long-text', 'folder'].includes(field.type),
    );
    const nodes: Node[] = [];
    for (const field of counted) {
      nodes.push(not(has(field.key)));
      const { choices } = await choicesOf(db, HOUSE, EVERYTHING, { field: field.key });
      if (field.type !== 'date' && choices[0])
        nodes.push(is(field.key, choices[0].value), not(is(field.key, choices.at(-1)!.value)));
    }
    const [folder] = await db.selectFrom('folder').select('id').limit(1).execute();
    if (folder) nodes.push({ field: 'folder', test: 'in', values: [refTo(folder.id)] });
    const differing: string[] = [];
    for (let at = 0; at < wished; at += 1) {
      const pick = (step: number): Node => nodes[(at * 7 + step * 13) % nodes.length]!;
      const query: Query = {
        ...EVERYTHING,
        where:
          at % 3 === 0 ? [pick(0)] : at % 3 === 1 ? [pick(0), { any: [pick(1), pick(2)] }] : [],
      };
      const field = counted[at % counted.length]!.key;
      const ours = await answerFrom(living, { ask: 'wall', query });
      const truth = await wallOf(db, HOUSE, query);
      const own = await answerFrom(living, { ask: 'choices', query, field, at: -1, typed: '' });
      const told = await choicesOf(db, HOUSE, query, { field });
      const plain = (choices: { value: unknown; count: number }[]): string =>
        JSON.stringify(
          choices
            .filter(({ count }) => count > 0)
            .map(({ value, count }) => [value, count])
            .sort(),
        );
      if (
        ours.total !== truth.total ||
        ours.groups.length !== truth.groups.length ||
        own.lacking !== told.lacking ||
        (!told.more && plain(own.choices) !== plain(told.choices))
      )
        differing.push(`${formatQuery(query) || 'everything'} (${field})`);
    }
    answer(values.json, { items: living.index.total, queries: wished, differing }, () =>
      [
        ...differing.map((text) => `differs: ${text}`),
        `${living.index.total} items, ${wished} queries, ${differing.length} differ`,
      ].join('\n'),
    );
    return differing.length === 0 ? 0 : 1;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'compare the index with the database', help, run };
