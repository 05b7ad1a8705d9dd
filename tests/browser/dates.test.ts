import { Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import { openBrowser, type Visitor } from '../support/browser';

/** Dates of what is selected, as the librarian sets them when a camera's clock was wrong. */
let visitor: Visitor;
beforeAll(async () => {
  visitor = await openBrowser(process.env['MINDFUL_TEST_ADDRESS']!);
  await visitor.signIn(DEMO_ACCOUNTS[0]!.email, DEMO_PASSWORD);
});
afterAll(() => visitor?.quit());

const Q = 'kind photo; has taken; order number';
const taken = (): Promise<string[]> =>
  visitor.driver.executeAsyncScript(
    `const done = arguments[0];
     fetch('/api/v1/items?limit=3&fields=taken&q=' + encodeURIComponent(${JSON.stringify(Q)}))
       .then((response) => response.json())
       .then(({ items }) => done(items.map(({ values }) => JSON.stringify(values.taken))))`,
  );
/** Cells of a column of what would change. */
const column = (at: number): Promise<string[]> =>
  visitor.driver.executeScript(
    `return [...document.querySelectorAll('dialog [role=table] [role=row]')].map((row) => row.children[${at}].innerText)`,
  );

describe('dates of a selection', () => {
  it('are seen before and after, moved as one step, and given back by the ledger', async () => {
    const before = await taken();
    await visitor.go(`/catalogue?q=${encodeURIComponent(Q)}`);
    await (
      await visitor.find('[role=listbox]')
    ).sendKeys(
      Key.ARROW_RIGHT,
      Key.chord(Key.SHIFT, Key.ARROW_RIGHT),
      Key.chord(Key.SHIFT, Key.ARROW_RIGHT),
    );
    await visitor.click('Dates', '.bar');
    await visitor.write('Amount', 'tomorrow');
    const act = await visitor.find('dialog footer button');
    expect([await act.getText(), await act.isEnabled()]).toEqual(['Set 0 dates', false]);
    await visitor.write('Amount', '-1d');
    await visitor.eventually(async () => (await column(0)).length === 3, 'all three');
    const [old, now] = [await column(1), await column(2)];
    const day = (text: string): number => Date.parse(`${text.slice(0, 10)}T00:00Z`) / 86_400_000;
    expect(old.map((text, at) => day(text) - day(now[at]!))).toEqual([1, 1, 1]);
    expect(old.map((text) => text.slice(10))).toEqual(now.map((text) => text.slice(10)));
    expect(await visitor.axe()).toEqual([]);
    expect(await taken()).toEqual(before);
    await visitor.click('Set 3 dates', 'dialog');
    await visitor.says('The dates of 3 items are set.');
    await visitor.eventually(
      async () => (await taken()).every((text, at) => text !== before[at]),
      'the new dates',
    );
    await visitor.go('/ledger');
    await visitor.says('Set taken');
    await visitor.click('Undo');
    await visitor.eventually(
      async () => (await taken()).join() === before.join(),
      'the former dates',
    );
    expect(await visitor.complaints()).toEqual([]);
  });
});
