import { execFileSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { hierarchyOf, NO_TERM_RULES } from '#core/terms/rules';
import { findIds } from '#server/catalogue/find';
import { undo } from '#server/deeds/undo';
import { stampItems, stampPreview } from '#server/lists/stamps';
import { saveTerm } from '#server/lists/thesaurus';
import { changeRecords, readRecords } from '#server/records/records';
import { setTermRules } from '#server/lists/rules';
import { broaderOf, waysTo } from '#server/terms/rules';
import { termsNamed, typedTerms } from '#server/terms/terms';
import { bringIn, idle, placeNamed, useArchive } from '../support/archive';
import { writeJpeg } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
const db = () => archive.house.db;
let ids: string[] = [];
let root = '';
const termsOf = async (at: number): Promise<string[]> =>
  (await readRecords(db(), [ids[at]!]))[0]!.values.terms;
const said = (name: string): string =>
  execFileSync('exiv2', ['-q', '-PXkyct', join(root, name)]).toString();

beforeAll(async () => {
  const source = join(archive.folder, 'card');
  mkdirSync(source);
  for (const at of [1, 2, 3]) await writeJpeg(join(source, `kite-${at}.jpg`), at);
  await bringIn(archive, source, { mode: 'copy', place: await placeNamed(archive, 'Termed') });
  root = join(archive.folder, 'Termed');
  ids = await findIds(db(), HOUSE, parseQuery('order name'));
  await typedTerms(db(), ['Box kite under Kite', 'Six-sided box kite under Box kite']);
  await typedTerms(db(), ['Box kite under Wood work']);
});

describe('the house rule about broader terms', () => {
  it('brings them along only where it holds: seen in the preview of a stamp, one step, taken back', async () => {
    await changeRecords(db(), null, asSeen([ids[0]!]), { addTerms: ['Six-sided box kite'] });
    expect(await termsOf(0)).toEqual(['Six-sided box kite']);
    await setTermRules(db(), null, { ...NO_TERM_RULES, broader: true });
    await changeRecords(db(), null, asSeen([ids[1]!]), { addTerms: ['Six-sided box kite'] });
    expect(await termsOf(1)).toEqual(['Box kite', 'Kite', 'Six-sided box kite']);
    await changeRecords(db(), null, asSeen([ids[1]!]), { removeTerms: ['Kite'] });
    expect(await termsOf(1)).toEqual(['Box kite', 'Six-sided box kite']);
    await changeRecords(db(), null, asSeen([ids[1]!]), { addTerms: ['Kite'] });
    const lines = [{ field: 'terms', way: 'add', value: ['Box kite'] }] as const;
    const seen = await stampPreview(db(), asSeen([ids[2]!]), lines as never);
    expect(seen.lines[0]!.after).toBe('Box kite; Kite');
    await stampItems(db(), null, asSeen([ids[2]!]), lines as never, seen.fingerprint);
    expect(await termsOf(2)).toEqual(['Box kite', 'Kite']);
  });

  it('is taken back with the term in one step', async () => {
    await changeRecords(db(), null, asSeen([ids[0]!]), { removeTerms: ['Six-sided box kite'] });
    const done = await changeRecords(db(), null, asSeen([ids[0]!]), {
      addTerms: ['Six-sided box kite'],
    });
    expect((await termsOf(0)).length).toBe(3);
    await undo(db(), null, done!.operationId);
    expect(await termsOf(0)).toEqual([]);
  });
});

describe('where terms stand', () => {
  it('is told in files beside the flat keywords, and follows the thesaurus', async () => {
    await setTermRules(db(), null, { broader: false, hierarchy: 'written' });
    await changeRecords(db(), null, asSeen([ids[0]!]), { addTerms: ['Box kite', 'Dusk, early'] });
    await idle(archive);
    const text = said('kite-1.jpg');
    expect(text).toMatch(/dc\.subject.*Box kite, Dusk, early/);
    expect(text).toMatch(/Hierarchy\[\d\]\/\S*Keyword\s.*Kite/);
    expect(text).toMatch(/Children\[1\]\/\S*Keyword\s.*Box kite/);
    expect(text).toMatch(/Keyword\s.*Dusk, early/);
    const id = (await termsNamed(db(), ['Box kite'])).get('Box kite')!;
    const toys = (await typedTerms(db(), ['Toys']), await termsNamed(db(), ['Toys'])).get('Toys')!;
    await saveTerm(db(), null, id, {
      ...{ label: 'Box kite', labels: [], broader: [toys], related: [], note: '', retired: false },
    });
    await idle(archive);
    expect(said('kite-1.jpg')).toMatch(/Keyword\s.*Toys/);
    expect(await waysTo(db(), ['Box kite'])).toEqual([['Toys', 'Box kite']]);
    expect((await broaderOf(db(), ['Six-sided box kite'])).get('Six-sided box kite')).toEqual([
      ...['Box kite', 'Toys'],
    ]);
    await setTermRules(db(), null, { broader: false, hierarchy: 'removed' });
    await changeRecords(db(), null, asSeen([ids[0]!]), { addTerms: ['Noon'] });
    await idle(archive);
    expect(said('kite-1.jpg')).not.toContain('Hierarchy');
    expect(said('kite-1.jpg')).toMatch(/Box kite, Dusk, early, Noon/);
  });

  it('holds labels that look like structure', () => {
    expect(hierarchyOf(['b, {c}'], [['a|b', 'b, {c}']])).toBe(
      '{Hierarchy=[{Keyword=a||b,Applied=False,Children=[{Keyword=b|, |{c|},Applied=True}]}]}',
    );
    expect(hierarchyOf([], [])).toBeNull();
  });
});
