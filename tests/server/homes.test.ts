import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterAll, describe, expect, it } from 'vitest';
import { EMPTY_RECORD, FIELD_KEYS, FIELDS, shapeOf, type RecordValues } from '#core/records/fields';
import { recordFromTags } from '#core/records/mapping';
import { tagsFromRecord } from '#core/records/writing';
import { endExiftool, readTags, writeTagsTo } from '#server/metadata/exiftool';
import { exiv2 } from '../support/pictures';

/** Every field of the record lies in a file where its standard says, as another tool than the one that wrote it reads. */
const folder = mkdtempSync(join(tmpdir(), 'mindful-homes-'));
afterAll(async () => {
  await endExiftool();
  rmSync(folder, { recursive: true });
});

/** A value of each field's own shape. */
function full(): RecordValues {
  const record: Record<string, unknown> = { ...EMPTY_RECORD, rating: 4 };
  for (const key of FIELD_KEYS) {
    const field = FIELDS[key];
    const shape = shapeOf(field);
    if (field.type === 'position') record[key] = '-54.3207, 10.1349';
    else if (field.languagesOf) record[key] = { de: `Ü ${key}`, 'pt-BR': 'Outra' };
    else if (field.type === 'enum') record[key] = field.values![1]!.key;
    else if (field.whole) record[key] = '12';
    else if (shape === 'list') record[key] = ['Ä one', 'two'];
    else if (shape === 'text') record[key] = `Ü ${key}`;
  }
  return { ...(record as RecordValues), scene: ['011200'], subjectCodes: ['01000000'] };
}

describe('the homes of the record', () => {
  it('hold every field, in a file and in a sidecar, and forget what is emptied', async () => {
    const plain = join(folder, 'plain.jpg');
    await sharp({ create: { width: 40, height: 30, channels: 3, background: '#888' } })
      .jpeg()
      .toFile(plain);
    const record = full();
    for (const [name, source] of [
      ['full.jpg', plain],
      ['full.xmp', null],
    ] as const) {
      const path = join(folder, name);
      const target = { exif: source !== null, iim: false };
      await writeTagsTo(source, path, tagsFromRecord(record, FIELD_KEYS, target));
      expect([name, recordFromTags(await readTags(path, false))]).toEqual([name, record]);
      const tags = exiv2(path);
      const told = Object.values(tags).join('\n');
      // exiv2 tells terms of a vocabulary in words of its own.
      for (const key of ['ModelReleaseStatus', 'PropertyReleaseStatus'])
        expect([name, key, tags[`Xmp.plus.${key}`]]).toEqual([
          name,
          key,
          expect.stringMatching(/./),
        ]);
      for (const key of FIELD_KEYS.filter((one) => FIELDS[one].type.endsWith('text')))
        expect([name, key, told.includes(String(record[key]))]).toEqual([name, key, true]);
    }
    const emptied = join(folder, 'emptied.jpg');
    await writeTagsTo(
      join(folder, 'full.jpg'),
      emptied,
      tagsFromRecord(EMPTY_RECORD, FIELD_KEYS, { exif: true, iim: false }),
    );
    expect(recordFromTags(await readTags(emptied, false))).toEqual(EMPTY_RECORD);
  });
});
