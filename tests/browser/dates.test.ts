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
      await visitor.wall()
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

describe('the ledger', () => {
  const change = (body: object): Promise<{ operation: string }> =>
    visitor.driver.executeAsyncScript(
      `const [body, q, done] = arguments;
       fetch('/api/v1/items?limit=2&q=' + encodeURIComponent(q)).then((answer) => answer.json())
         .then(({ items }) => fetch('/api/records', { method: 'PATCH', headers: { 'content-type': 'application/json' },
           body: JSON.stringify({ ids: items.map(({ id }) => id), change: body }) }))
         .then((answer) => answer.json()).then(done)`,
      ...[body, Q],
    );
  const events = (): Promise<string> =>
    visitor.driver.executeAsyncScript(
      `const done = arguments[1];
       fetch('/api/v1/items?limit=2&fields=event,supplier&q=' + encodeURIComponent(arguments[0]))
         .then((response) => response.json()).then(({ items }) => done(JSON.stringify(items.map(({ values }) => values))))`,
      Q,
    );

  it('takes a change back with the later ones that stand in its way', async () => {
    const before = await events();
    await change({ event: 'Early' });
    await change({ event: 'Late' });
    await visitor.go('/ledger?about=Set+event');
    const rows = await visitor.driver.executeScript<number>(
      `return [...document.querySelectorAll('tbody button.button')].filter((one) => one.innerText === 'Undo').length`,
    );
    if (rows < 2) await visitor.click('Set event');
    await visitor.driver.executeScript(
      `[...document.querySelectorAll('tbody button.button')].filter((one) => one.innerText === 'Undo')[1].click()`,
    );
    await visitor.says('changed again since');
    await visitor.click('Undo the later changes as well …');
    await visitor.says('Later changes, and this one');
    await visitor.click('Take back 2 changes', 'dialog');
    await visitor.says('2 changes taken back.');
    await visitor.eventually(async () => (await events()) === before, 'the former event');
    // The refusal is all the page complained of.
    expect((await visitor.complaints()).filter((one) => !one.includes('409'))).toEqual([]);
  });

  it('takes back all that it is asked for, once it was seen; and is taken away as a table', async () => {
    const before = await events();
    await change({ event: 'One step' });
    await change({ supplier: 'Another step' });
    const today = new Date().toISOString().slice(0, 10);
    await visitor.go(`/ledger?kind=record&about=2026.&from=${today}`);
    await visitor.click('Take all of these back …');
    await visitor.says('Take these changes back');
    expect(await visitor.axe()).toEqual([]);
    await visitor.press(Key.ESCAPE);
    await visitor.go('/ledger?about=Set+supplier');
    await visitor.click('Take all of these back …');
    await visitor.says('Take back 1 change');
    await visitor.click('Take back 1 change', 'dialog');
    await visitor.says('1 change taken back.');
    const table = await visitor.driver.executeAsyncScript<string>(
      `const done = arguments[0];
       fetch(document.querySelector('a[href^="/api/ledger/csv"]').href).then((answer) => answer.text()).then(done)`,
    );
    expect(table.split('\r\n')[0]).toContain('Before,After');
    expect(table).toContain('supplier: Another step');
    await visitor.go('/ledger?about=Set+event');
    await visitor.click('Undo');
    await visitor.eventually(async () => (await events()) === before, 'all as before');
    expect(await visitor.complaints()).toEqual([]);
  });
});
