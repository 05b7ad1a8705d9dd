import { describe, expect, it, vi } from 'vitest';
import { asSeen } from '#server/sight/seen';

/** A field is one entry of the table: everything else finds it there. */
vi.mock('#core/fields/table', async (original) => {
  const { TABLE } = await original<typeof import('#core/fields/table')>();
  const added = {
    ...{ key: 'wind', label: 'Wind', type: 'text', part: 'record', store: { json: 'record' } },
    ...{
      uses: ['sort', 'group', 'count', 'edit', 'name', 'words'],
      most: 40,
      xmp: 'XMP-dc:Coverage',
    },
  };
  return { TABLE: [...TABLE, added] };
});

const { useArchive } = await import('../support/archive');
const { makeItems } = await import('../support/made');
const { formatQuery, parseQuery } = await import('#core/query/grammar');
const { sentenceText } = await import('#core/query/sentence');
const { readSentence } = await import('#core/english/read');
const { recordFromTags } = await import('#core/records/mapping');
const { tagsFromRecord } = await import('#core/records/writing');
const { FIELD_KEYS } = await import('#core/records/fields');
const { changeRecords, readRecords } = await import('#server/records/records');
const { findIds, wallOf } = await import('#server/catalogue/find');
const { choicesOf } = await import('#server/catalogue/facets');
const { rowsFound } = await import('#server/catalogue/rows');
const { LivingIndex } = await import('#server/index/living');
const { answerFrom } = await import('#server/index/answer');
const { HOUSE } = await import('#core/sight/viewer');
const { openApi } = await import('#core/api/shapes');

const archive = useArchive({ worker: false });
const db = () => archive.house.db;

describe('a field added by one entry', () => {
  it('is described, found, ordered, grouped, counted, told, read from files and written', async () => {
    const items = await makeItems(archive);
    const [first, second] = items.map(({ id }) => id) as [string, string];
    await changeRecords(db(), null, asSeen([first]), { wind: 'north' } as never);
    await changeRecords(db(), null, asSeen([second]), { wind: 'south west' } as never);
    const [record] = await readRecords(db(), [first]);
    expect(record!.values).toMatchObject({ wind: 'north' });
    expect(record!.provenance).toMatchObject({ wind: { source: 'person' } });

    const query = parseQuery('wind north; order wind; group wind');
    expect(parseQuery(formatQuery(query))).toEqual(query);
    const text = sentenceText(query, () => undefined);
    expect(text).toContain('wind “north”');
    expect(readSentence(text, () => [], '2026-11-25').query.where).toEqual(query.where);
    expect(await findIds(db(), HOUSE, query)).toEqual([first]);
    expect(await findIds(db(), HOUSE, parseQuery('words "south west"'))).toContain(second);
    expect((await wallOf(db(), HOUSE, query)).groups.map(({ key }) => key)).toEqual(['north']);
    const told = await choicesOf(db(), HOUSE, parseQuery(''), { field: 'wind' });
    expect(told).toMatchObject({ lacking: items.length - 2 });
    expect(told.choices.map(({ value, count }) => [value, count]).sort()).toEqual([
      ['north', 1],
      ['south west', 1],
    ]);
    const rows = await rowsFound(db(), HOUSE, query, ['wind'], { limit: 5 });
    expect(rows.map(({ values }) => values)).toEqual([{ wind: 'north' }]);

    const living = new LivingIndex(db(), archive.house.pool);
    await living.build();
    expect(await answerFrom(living, { ask: 'ids', query, from: 0, to: 9 })).toEqual([first]);
    expect(
      await answerFrom(living, {
        ask: 'choices',
        query: parseQuery(''),
        field: 'wind',
        at: -1,
        typed: '',
      }),
    ).toMatchObject({ lacking: items.length - 2 });

    expect(FIELD_KEYS).toContain('wind');
    expect(recordFromTags({ 'XMP-dc:Coverage': 'east' })).toMatchObject({ wind: 'east' });
    expect(
      tagsFromRecord({ ...record!.values }, ['wind' as never], { exif: true, iim: false }),
    ).toEqual({ 'XMP-dc:Coverage': 'north' });
    expect(JSON.stringify(openApi('1'))).toContain('"wind"');
  });
});
