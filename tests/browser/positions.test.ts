import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import { openBrowser, type Visitor } from '../support/browser';

/** Where and when something was taken, as the librarian tells it of many: places, tracks, words, languages, terms. */
let visitor: Visitor;
beforeAll(async () => {
  visitor = await openBrowser(process.env['MINDFUL_TEST_ADDRESS']!);
  await visitor.signIn(DEMO_ACCOUNTS[0]!.email, DEMO_PASSWORD);
});
afterAll(() => visitor?.quit());

const Q = 'kind photo; has taken; order number';
const told = (...fields: string[]): Promise<Record<string, unknown>[]> =>
  visitor.driver.executeAsyncScript(
    `const [fields, q, done] = arguments;
     fetch('/api/v1/items?limit=3&fields=' + fields + '&q=' + encodeURIComponent(q))
       .then((response) => response.json()).then(({ items }) => done(items.map(({ values }) => values)))`,
    fields.join(','),
    Q,
  );
const becomes = (wanted: () => Promise<boolean>, what: string) => visitor.eventually(wanted, what);
/** Choose the first three of the wall. */
const chooseThree = async (view = ''): Promise<void> => {
  await visitor.go(`/catalogue?q=${encodeURIComponent(Q)}${view}`);
  const take = Key.chord(Key.SHIFT, Key.ARROW_RIGHT);
  await (await visitor.wall()).sendKeys(Key.ARROW_RIGHT, take, take);
  await visitor.find('.bar');
};
const undo = (): Promise<void> =>
  visitor.driver.executeScript(
    `[...document.querySelectorAll('.notices button')].filter((one) => one.innerText === 'Undo').at(-1).click()`,
  );

describe('where a selection was taken', () => {
  it('is pasted, seen before, set with names, and given back', async () => {
    const before = JSON.stringify(await told('position', 'createdCountry'));
    await chooseThree();
    await visitor.click('Where', '.bar');
    await visitor.write('Position', 'somewhere');
    const act = await visitor.find('dialog footer button');
    expect([await act.getText(), await act.isEnabled()]).toEqual(['Set 0 records', false]);
    await visitor.write('Position', '54° 19′ 14.52″ N, 10° 8′ 5.64″ E');
    await (await visitor.find('dialog .names input')).click();
    await visitor.says('Country created: Germany');
    await visitor.says('54.3207, 10.1349');
    expect(await visitor.axe()).toEqual([]);
    expect(JSON.stringify(await told('position', 'createdCountry'))).toBe(before);
    await visitor.click('Set 3 records', 'dialog');
    await visitor.says('Where 3 items were taken is set.');
    await becomes(
      async () =>
        (await told('createdCountry')).every((one) => one['createdCountry'] === 'Germany'),
      'the country',
    );
    await undo();
    await becomes(
      async () => JSON.stringify(await told('position', 'createdCountry')) === before,
      'the former positions',
    );
  });

  it('comes from a track that is brought; a gap is told', async () => {
    const [first] = await told('taken');
    const at = Date.parse(`${String(first!['taken']).slice(0, 19)}Z`);
    const point = (seconds: number, latitude: number): string =>
      `<trkpt lat="${latitude}" lon="10"><time>${new Date(at + seconds * 1000).toISOString()}</time></trkpt>`;
    const path = join(visitor.downloads, '..', 'walk.gpx');
    writeFileSync(
      path,
      `<gpx version="1.1"><trk><name>A walk</name><trkseg>${point(-60, 54)}${point(60, 54.2)}</trkseg></trk></gpx>`,
    );
    await chooseThree();
    await visitor.click('Where', '.bar');
    await visitor.click('From a track', 'dialog');
    await (await visitor.find('input[aria-label="GPX file"]')).sendKeys(path);
    await visitor.says('2 points in 1 stretch');
    await visitor.write('Zone of clocks that do not say', '+00:00');
    await visitor.driver.executeScript(
      `[...document.querySelectorAll('dialog .wish label')].find((one) => one.innerText.includes('also where')).querySelector('input').click()`,
    );
    await visitor.eventually(
      async () =>
        (await (await visitor.find('dialog [role=table]')).getText()).match(
          /54\.1, 10|away from it/,
        ) !== null,
      'positions of the track',
    );
    expect(await visitor.axe()).toEqual([]);
    await visitor.press(Key.ESCAPE);
  });

  it('is where it is dropped on the Atlas, or put by the keyboard', async () => {
    const before = JSON.stringify(await told('position'));
    await chooseThree('&view=atlas');
    await visitor.find('.atlas .mark');
    await visitor.click('put 3 items here', '.atlas');
    await (await visitor.find('.atlas .map')).sendKeys(Key.ENTER);
    await visitor.says('3 items put at');
    await becomes(
      async () =>
        new Set((await told('position')).map((one) => String(one['position']))).size === 1,
      'one position',
    );
    await undo();
    await becomes(async () => JSON.stringify(await told('position')) === before, 'the former ones');
    // Carried onto the map.
    await visitor.driver.executeScript(
      `const tile = document.querySelector('[role=listbox] [role=option]');
       const map = document.querySelector('.atlas .map');
       const { left, top, width, height } = map.getBoundingClientRect();
       const data = new DataTransfer();
       const at = { bubbles: true, cancelable: true, dataTransfer: data, clientX: left + width / 3, clientY: top + height / 2 };
       const from = tile.getBoundingClientRect();
       tile.dispatchEvent(new DragEvent('dragstart', { ...at, clientX: from.left + 5, clientY: from.top + 5 }));
       return new Promise((done) => requestAnimationFrame(() => {
         map.dispatchEvent(new DragEvent('dragenter', at));
         map.dispatchEvent(new DragEvent('dragover', at));
         requestAnimationFrame(() => {
           map.dispatchEvent(new DragEvent('drop', at));
           tile.dispatchEvent(new DragEvent('dragend', at));
           done();
         });
       }));`,
    );
    await visitor.says('put at');
    await becomes(async () => JSON.stringify(await told('position')) !== before, 'the new place');
    await undo();
    await becomes(async () => JSON.stringify(await told('position')) === before, 'the old place');
    expect(await visitor.axe()).toEqual([]);
  });

  it('has a place of one’s own: kept on the Atlas, changed, taken off, given back', async () => {
    await visitor.go('/catalogue?view=atlas');
    await visitor.find('.atlas .mark');
    await visitor.click('keep a place', '.atlas');
    await (await visitor.find('.atlas .map')).sendKeys(Key.ENTER);
    await visitor.fill('dialog .form > label input', 'The tide pole');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Keep it', 'dialog');
    await visitor.says('Place kept.');
    await visitor.says('The tide pole');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('The tide pole');
    await visitor.click('Take off the list', 'dialog');
    await visitor.says('Taken off the list.');
    await undo();
    await visitor.eventually(
      async () => (await (await visitor.find('.page ul')).getText()).includes('The tide pole'),
      'the place again',
    );
    await visitor.click('what was taken here');
    await visitor.find('.catalogue');
  });
});

describe('what the card says', () => {
  it('is a date in plain words, echoed while it is written', async () => {
    const before = (await told('taken'))[0]!['taken'];
    await visitor.go(`/catalogue?q=${encodeURIComponent(Q)}`);
    await (await visitor.wall()).sendKeys(Key.ARROW_RIGHT);
    await visitor.click('Taken:', 'aside');
    const field = await visitor.find('aside .field[aria-label="Taken"]');
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), 'perhaps summer 1962');
    await visitor.says('≈ perhaps summer 1962 · 1962-22?');
    await field.sendKeys(Key.ENTER);
    await visitor.eventually(
      async () =>
        (await (await visitor.find('aside [data-field=taken]')).getText()).includes(
          '≈ perhaps summer 1962',
        ),
      'the mark',
    );
    await (await visitor.wall()).sendKeys(Key.chord(Key.CONTROL, 'z'));
    await becomes(async () => (await told('taken'))[0]!['taken'] === before, 'the former date');
  });

  it('is a title in another language, in a section of its own', async () => {
    await visitor.go(`/catalogue?q=${encodeURIComponent(Q)}`);
    await (await visitor.wall()).sendKeys(Key.ARROW_RIGHT);
    await visitor.click('In other languages', 'aside');
    await visitor.write('Another language of Title', 'de');
    await visitor.write('Title in that language', 'Rotes Segel');
    await visitor.press(Key.ENTER);
    const said = (): Promise<string> =>
      told('titleIn').then(([one]) => JSON.stringify(one!['titleIn']));
    await becomes(async () => (await said()).includes('Rotes Segel'), 'the German title');
    await visitor.find('aside .field[aria-label="Title in German"]');
    expect(await visitor.axe()).toEqual([]);
    await visitor.write('Title in German', ' ');
    await visitor.press(Key.ENTER);
    await becomes(async () => !(await said()).includes('Rotes'), 'no German title');
    await visitor.click('In other languages', 'aside');
  });

  it('is the balance of terms over a selection, changed in one step', async () => {
    const before = JSON.stringify(await told('terms'));
    await chooseThree();
    await visitor.says('3 items ·');
    await visitor.click('Terms of all…', 'aside');
    for (const term of ['Balanced', 'Weighed']) {
      await visitor.write('A term for all', term);
      await visitor.press(Key.ENTER);
    }
    await visitor.says('Change 2 terms');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Change 2 terms', 'dialog');
    await visitor.says('3 records changed.');
    const given = (one: Record<string, unknown>) => (one['terms'] as string[]).includes('Balanced');
    await becomes(async () => (await told('terms')).every(given), 'the new term');
    await undo();
    await becomes(async () => JSON.stringify(await told('terms')) === before, 'the former terms');
    expect(await visitor.complaints()).toEqual([]);
  });
});

describe('the house', () => {
  it('asks how a value is written, and says of terms what they bring', async () => {
    await visitor.go('/lists/rules');
    await visitor.driver.executeScript(
      `const select = document.querySelector('select[aria-label="A rule for another field"]');
       select.value = 'jobId'; select.dispatchEvent(new Event('change', { bubbles: true }));`,
    );
    await visitor.write('How Job id is written', '@@-####*');
    await visitor.driver.executeScript(
      `[...document.querySelectorAll('.page li')].find((row) => row.innerText.includes('Job id')).querySelector('input[type=checkbox]').click()`,
    );
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Save the rules');
    await visitor.says('The rules hold from now on');
    await visitor.driver.executeScript(`document.querySelector('.page .rule input').click()`);
    await visitor.says('It holds from now on.');
    await visitor.go('/lists/rules');
    const isOn = (): Promise<boolean> =>
      visitor.driver.executeScript(`return document.querySelector('.page .rule input').checked`);
    expect(await isOn()).toBe(true);
    await visitor.driver.executeScript(`document.querySelector('.page .rule input').click()`);
    await visitor.says('It holds from now on.');
    await visitor.click('Without the rule for Job id');
    await visitor.click('Save the rules');
    await visitor.says('The rules hold from now on');
    expect(await visitor.complaints()).toEqual([]);
  });
});
