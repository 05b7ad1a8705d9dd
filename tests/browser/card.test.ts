import { IPTC_OLDER } from '#core/fields/namespaces';
import { Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import { openBrowser, type Visitor } from '../support/browser';
import { setTags } from '../support/pictures';

/** The record card as somebody writes on it all day: by the keyboard, for one and for many. */
let visitor: Visitor;
const Q = 'kind photo; order number';
beforeAll(async () => {
  visitor = await openBrowser(process.env['MINDFUL_TEST_ADDRESS']!);
  await visitor.signIn(DEMO_ACCOUNTS[0]!.email, DEMO_PASSWORD);
});
afterAll(() => visitor?.quit());

type Values = Record<string, string | string[] | null>;
const fetched = <T>(path: string, method = 'GET', body?: unknown): Promise<T> =>
  visitor.driver.executeAsyncScript(
    `const [path, method, body, done] = arguments;
     fetch(path, { method, ...(body ? { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } } : {}) })
       .then((answer) => (answer.status === 204 ? null : answer.json())).then(done);`,
    ...[path, method, body],
  );
/** Values of the first items of the wall. */
const values = async (count: number, ...fields: string[]): Promise<Values[]> => {
  const { items } = await fetched<{ items: { values: Values }[] }>(
    `/api/v1/items?limit=${count}&fields=${fields.join(',')}&q=${encodeURIComponent(Q)}`,
  );
  return items.map((item) => item.values);
};
const field = (key: string) => visitor.find(`aside [data-field=${key}]`);
const text = async (key: string): Promise<string> => (await field(key)).getText();
const opened = (label: string) => visitor.find(`aside .field[aria-label="${label}"]`);
const wall = async (...keys: string[]): Promise<void> => {
  await visitor.go(`/catalogue?q=${encodeURIComponent(Q)}`);
  await (await visitor.wall()).sendKeys(Key.ARROW_RIGHT, ...keys);
  await visitor.find('aside [data-field=title]');
};
const take = Key.chord(Key.SHIFT, Key.ARROW_RIGHT);
const paste = async (label: string, pasted: string): Promise<void> => {
  await visitor.driver.executeScript(
    `const data = new DataTransfer();
     data.setData('text/plain', arguments[1]);
     arguments[0].dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));`,
    await opened(label),
    pasted,
  );
};

describe('the record card', () => {
  it('holds the whole registry in sections that stay open, and finds a field by its name', async () => {
    await wall();
    await visitor.click('Rights', 'aside');
    await field('usageTerms');
    await wall();
    await field('usageTerms');
    expect(await visitor.axe()).toEqual([]);
    await visitor.write('Find a field by its name', 'writ');
    await visitor.press(Key.ENTER);
    await (await opened('Caption writer')).sendKeys('B. Lindqvist', Key.ENTER);
    await visitor.eventually(
      async () => (await values(1, 'captionWriter'))[0]!['captionWriter'] === 'B. Lindqvist',
      'the caption writer',
    );
    await visitor.write('Find a field by its name', ' ');
    await visitor.click('Rights', 'aside');
  });

  it('keeps the caret in its field from item to item, and goes through the fields by Tab', async () => {
    await wall();
    await (await visitor.named('Title:', 'aside')).click();
    await (
      await opened('Title')
    ).sendKeys(Key.chord(Key.CONTROL, 'a'), 'One', Key.chord(Key.ALT, Key.ARROW_DOWN));
    await visitor.says('.0002');
    await (await opened('Title')).sendKeys(Key.chord(Key.CONTROL, 'a'), 'Two', Key.TAB);
    await (await opened('Caption')).sendKeys(Key.chord(Key.CONTROL, 'a'), 'Of two', Key.TAB);
    // A date is written as it can be read back, not as it is shown.
    expect(await (await opened('Taken')).getAttribute('value')).toMatch(
      /^\d{4}-\d\d-\d\d \d\d:\d\d:\d\d( [+-]\d\d:\d\d)?$/,
    );
    await (await opened('Taken')).sendKeys(Key.ESCAPE);
    await visitor.eventually(
      async () => (await values(2, 'title')).map(({ title }) => title).join() === 'One,Two',
      'both titles',
    );
    await visitor.eventually(
      async () => (await values(2, 'caption'))[1]!['caption'] === 'Of two',
      'the caption of the second',
    );
  });

  it('takes back and does again what was written here', async () => {
    const before = (await values(1, 'title'))[0]!['title'];
    await wall();
    await (await visitor.named('Title:', 'aside')).click();
    await (await opened('Title')).sendKeys(Key.chord(Key.CONTROL, 'a'), 'Undone soon', Key.ENTER);
    const titled = (wanted: unknown) =>
      visitor.eventually(
        async () => (await values(1, 'title'))[0]!['title'] === wanted,
        `“${String(wanted)}”`,
      );
    await titled('Undone soon');
    const list = await visitor.wall();
    await list.sendKeys(Key.chord(Key.CONTROL, 'z'));
    await titled(before);
    await list.sendKeys(Key.chord(Key.CONTROL, Key.SHIFT, 'z'));
    await titled('Undone soon');
  });

  it('says who else wrote into the same field meanwhile, and lets one choose', async () => {
    await wall();
    const [id] = await fetched<string[]>(`/api/catalogue/ids?q=${encodeURIComponent(Q)}`);
    const other = (change: object) => fetched('/api/records', 'PATCH', { ids: [id], change });
    await (await visitor.named('Title:', 'aside')).click();
    await opened('Title');
    // The other's change itself, and what the card asks for because of it.
    await visitor.answered('/api/records', () => other({ title: 'Theirs', jobId: 'J-7' }), 2);
    await (await opened('Title')).sendKeys(Key.chord(Key.CONTROL, 'a'), 'Mine', Key.ENTER);
    await visitor.says('Title of');
    await visitor.says('meanwhile');
    expect(await text('title')).toBe('Theirs');
    // The wall is loaded anew meanwhile; the question stands until it is answered.
    await visitor.answered('/api/catalogue/', () => other({ rating: 2 }));
    await visitor.click('Write mine', 'aside');
    await visitor.eventually(
      async () => (await values(1, 'title'))[0]!['title'] === 'Mine',
      'what was written here',
    );
    expect((await values(1, 'jobId'))[0]!['jobId']).toBe('J-7');
    // The refused change is in the browser's log, nothing else is.
    expect((await visitor.complaints()).filter((line) => !line.includes('409'))).toEqual([]);
  });

  it('edits lists by element over many, and leaves what each has besides', async () => {
    await wall(take, take);
    await visitor.click('People', 'aside');
    await (await visitor.named('Persons shown:', 'aside')).click();
    await (
      await opened('Persons shown')
    ).sendKeys('Ida Maren', Key.ENTER, 'Zoë Ångström', Key.ENTER);
    const persons = async () => (await values(3, 'persons')).map((one) => one['persons']);
    await visitor.eventually(
      async () =>
        (await persons()).every(
          (one) => one!.includes('Ida Maren') && one!.includes('Zoë Ångström'),
        ),
      'both persons on all three',
    );
    await wall();
    await visitor.click('Take Ida Maren away', 'aside');
    await visitor.eventually(
      async () => !(await persons())[0]!.includes('Ida Maren'),
      'one person less',
    );
    await wall(take, take);
    await visitor.says('Ida Maren2');
    await visitor.click('Give Ida Maren to all', 'aside');
    await visitor.eventually(
      async () => (await persons()).every((one) => one!.includes('Ida Maren')),
      'her on all three again',
    );
    await visitor.click('People', 'aside');
  });

  it('lays a pasted column over a selection, seen before, in the order of the wall', async () => {
    await wall(take, take);
    await visitor.click('Story', 'aside');
    await (await visitor.named('Headline:', 'aside')).click();
    const lines = [`First at ${Date.now()}`, `Second at ${Date.now()}`];
    await paste('Headline', `${lines.join('\r\n')}\r\n`);
    await visitor.says('2 lines for 3 items');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Set 2 values', 'dialog');
    await visitor.eventually(
      async () =>
        JSON.stringify((await values(3, 'headline')).map(({ headline }) => headline ?? '')) ===
        JSON.stringify([...lines, '']),
      'a headline each',
    );
    await visitor.click('Story', 'aside');
  });

  it('puts a copied record onto others, field by field', async () => {
    await wall();
    await visitor.click('Copy record', 'aside');
    await visitor.says('is copied');
    await wall(Key.ARROW_RIGHT, Key.ARROW_RIGHT, Key.ARROW_RIGHT, take);
    const before = (await values(5, 'title')).map(({ title }) => title);
    await visitor.click('Put copied onto these', 'aside');
    await visitor.says('Put the record of');
    expect(await visitor.axe()).toEqual([]);
    await visitor.driver.executeScript(
      `[...document.querySelectorAll('dialog label')].find((one) => one.innerText.includes('Headline')).click()`,
    );
    await visitor.click('Put', 'dialog footer');
    await visitor.eventually(
      async () =>
        (await values(5, 'persons'))
          .slice(3)
          .every(({ persons }) => persons!.includes('Zoë Ångström')),
      'the persons on both',
    );
    const after = await values(5, 'title', 'headline');
    expect(after.map(({ title }) => title)).toEqual(before);
    expect(after.slice(3).map(({ headline }) => headline ?? '')).toEqual(['', '']);
  });

  it('shows first what the keeper chose for the team', async () => {
    await wall();
    await visitor.click('First fields', 'aside');
    await visitor.click('Copyright notice: leave out', 'dialog');
    const select = await visitor.find('dialog select');
    await select.sendKeys('Job');
    await visitor.says('Job id');
    await visitor.click('Job id: up', 'dialog');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Keep', 'dialog');
    await field('jobId');
    await visitor.go('/catalogue');
    await wall();
    const order = await visitor.driver.executeScript<string[]>(
      `return [...document.querySelectorAll('aside [data-field]')].map((node) => node.dataset.field)`,
    );
    expect(order).toEqual(['title', 'caption', 'taken', 'creator', 'jobId', 'creditLine']);
    await fetched('/api/records/first', 'PUT', {
      fields: ['taken', 'creator', 'creditLine', 'copyrightNotice'],
    });
  });
});

describe('a file that another program wrote into', () => {
  it('shows what both sides changed, and is settled by the field', async () => {
    const { items } = await fetched<{ items: { id: string }[] }>(
      `/api/v1/items?limit=1&q=${encodeURIComponent(Q)}`,
    );
    const id = items[0]!.id;
    interface Item {
      writing: string;
      files: { role: string; path: string; place: string }[];
    }
    const item = () => fetched<Item>(`/api/items/${id}`);
    const { path, place } = (await item()).files.find(({ role }) => role === 'original')!;
    const places = await fetched<{ id: string; name: string }[]>('/api/places');
    const own = places.find(({ name }) => name === place)!.id;
    const written = async (): Promise<boolean> => (await item()).writing === 'written';
    await visitor.eventually(written, 'all to be written');
    // Hands off: what is written here does not reach the file before the other program comes.
    await fetched(`/api/places/${own}`, 'PATCH', { handsOff: true });
    try {
      await fetched('/api/records', 'PATCH', { ids: [id], change: { creditLine: 'Here' } });
      await setTags(path, { [`${IPTC_OLDER}:Credit`]: 'There' });
      await visitor.eventually(
        async () => (await item()).writing === 'differs',
        'both sides to be seen',
      );
      await wall();
      await visitor.says('Another program wrote into the file');
      expect(await visitor.axe()).toEqual([]);
      await visitor.click('Take the file’s: Credit line', 'aside');
      await visitor.eventually(
        async () => (await values(1, 'creditLine'))[0]!['creditLine'] === 'There',
        'the credit of the file',
      );
      expect((await item()).writing).not.toBe('differs');
    } finally {
      await fetched(`/api/places/${own}`, 'PATCH', { handsOff: false });
    }
  });
});
