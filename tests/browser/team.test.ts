import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { By, Key, Origin, type WebElement } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import { openBrowser, type Visitor } from '../support/browser';

const ADDRESS = process.env['MINDFUL_TEST_ADDRESS']!;
const [KEEPER, CONTRIBUTOR, TEAMMATE] = DEMO_ACCOUNTS;
let odile: Visitor;
let bea: Visitor;

beforeAll(async () => {
  odile = await openBrowser(ADDRESS);
  bea = await openBrowser(ADDRESS);
  await odile.signIn(KEEPER!.email, DEMO_PASSWORD);
  await bea.signIn(CONTRIBUTOR!.email, DEMO_PASSWORD);
});
afterAll(async () => {
  await odile?.quit();
  await bea?.quit();
});

/** Ask the archive from inside a page, as its own code does. */
const ask = <T>(at: Visitor, path: string, method = 'GET', body?: unknown): Promise<T> =>
  at.driver.executeAsyncScript(
    `const [path, method, body, done] = arguments;
     fetch(path, { method, ...(body ? { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } } : {}) })
       .then(async (answer) => done({ status: answer.status, body: await answer.json().catch(() => null) }))
       // A server that was killed answers nothing.
       .catch(() => done({ status: 0, body: null }));`,
    path,
    method,
    body,
  );
const idsOf = async (at: Visitor, query: string): Promise<string[]> =>
  (await ask<{ body: string[] }>(at, `/api/catalogue/ids?q=${encodeURIComponent(query)}`)).body;
const tiles = (at: Visitor): Promise<WebElement[]> =>
  at.driver.findElements(By.css('[role=listbox] [role=option]'));
const selectedNames = (at: Visitor): Promise<string[]> =>
  at.driver.executeScript(
    `return [...document.querySelectorAll('[role=option][aria-selected=true]')].map((tile) => tile.getAttribute('aria-label'));`,
  );
/** The rating the record card shows, as “4 of 5”. */
const pips = (at: Visitor): Promise<string> =>
  at.driver.executeScript(
    `return document.querySelector('aside [aria-label=Rating] [aria-pressed=true]')?.getAttribute('aria-label') ?? '';`,
  );

describe('two people at once', () => {
  it('see what the other does, without asking', async () => {
    const query = '/catalogue?q=kind+photo%3B+order+name';
    await odile.go(query);
    await bea.go(query);
    for (const person of [odile, bea]) await (await person.wall()).sendKeys(Key.ARROW_RIGHT);
    await (await odile.wall()).sendKeys('5');
    await odile.eventually(async () => (await pips(odile)) === '5 of 5', 'five pips here');
    await bea.eventually(async () => (await pips(bea)) === '5 of 5', 'five pips on the other side');
    await (await bea.wall()).sendKeys('2');
    await odile.eventually(async () => (await pips(odile)) === '2 of 5', 'two pips coming back');
  });

  it('ask for little when one gives a pip: four requests in that window, three in another', async () => {
    const counting = async (at: Visitor): Promise<void> => {
      await at.driver.executeScript('performance.clearResourceTimings()');
    };
    const asked = (at: Visitor): Promise<string[]> =>
      at.driver.executeScript(
        `return performance.getEntriesByType('resource').map(({ name }) => name.replace(location.origin, ''))`,
      );
    /** All three waves are over: the rows, the index, the file that was written. */
    const settled = async (): Promise<void> => {
      let before = -1;
      for (let calm = 0; calm < 8;) {
        await odile.driver.sleep(500);
        const now = (await asked(odile)).length + (await asked(bea)).length;
        calm = now === before ? calm + 1 : 0;
        before = now;
      }
    };
    for (const query of ['kind photo; order name', 'kind photo; rated 1..; order name']) {
      for (const person of [odile, bea]) {
        await person.go(`/catalogue?q=${encodeURIComponent(query)}`);
        await (await person.wall()).sendKeys(Key.ARROW_RIGHT);
        await person.find('aside [aria-label=Rating]');
      }
      await settled();
      for (const person of [odile, bea]) await counting(person);
      const before = await pips(bea);
      const given = before === '3 of 5' ? 4 : 3;
      await (await odile.wall()).sendKeys(String(given));
      await bea.eventually(
        async () => (await pips(bea)) !== before,
        'the other window to tell of it',
      );
      await settled();
      const [own, other] = [await asked(odile), await asked(bea)];
      expect(own.length, own.join('\n')).toBeLessThanOrEqual(4);
      expect(other.length, other.join('\n')).toBeLessThanOrEqual(3);
      expect(other.length).toBeGreaterThan(0);
    }
  });

  it('do not overwrite each other: the later change says so and shows what is there', async () => {
    const [id] = await idsOf(odile, 'kind photo; order name');
    const read = async (): Promise<{ version: number; title: string }> => {
      const { body } = await ask<{
        body: { versions: Record<string, number>; merged: { title: { value: string } } };
      }>(odile, '/api/records', 'POST', { ids: [id] });
      return { version: body.versions[id!]!, title: body.merged.title.value };
    };
    const { version } = await read();
    const change = (at: Visitor, title: string) =>
      ask<{ status: number; body: { title: string } }>(at, '/api/records', 'PATCH', {
        ids: [id],
        change: { title },
        versions: { [id!]: version },
      });
    const answers = await Promise.all([change(odile, 'By Odile'), change(bea, 'By Bea')]);
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 409]);
    const lost = answers.find(({ status }) => status === 409)!;
    expect(lost.body.title).toMatch(/changed/i);
    const won = answers[0].status === 200 ? 'By Odile' : 'By Bea';
    expect(await read()).toEqual({ version: version + 1, title: won });
  });

  it('walk from picture to picture while others change them, and every key counts', async () => {
    await odile.go('/catalogue?q=kind+photo%3B+order+name');
    const ids = await idsOf(odile, 'kind photo; order name');
    await (await odile.wall()).sendKeys(Key.ARROW_RIGHT, Key.ENTER);
    await odile.find('.close');
    // The other one rates all the while: each change tells this window to load again.
    await bea.driver.executeScript(
      `window.busy = setInterval(() => fetch('/api/records', { method: 'PATCH', headers: { 'content-type': 'application/json' },
         body: JSON.stringify({ ids: arguments[0], change: { rating: Math.floor(Math.random() * 6) } }) }), 120);`,
      ids.slice(0, 20),
    );
    try {
      for (let step = 0; step < 8; step += 1) {
        const before = await odile.driver.getCurrentUrl();
        await odile.press(Key.ARROW_RIGHT);
        await odile.eventually(
          async () => (await odile.driver.getCurrentUrl()) !== before,
          `step ${step}`,
        );
      }
      for (let turn = 0; turn < 4; turn += 1) {
        await odile.press(Key.ESCAPE);
        await (await odile.wall()).sendKeys(Key.ARROW_RIGHT, Key.ENTER);
        await odile.find('.close');
      }
    } finally {
      await bea.driver.executeScript('clearInterval(window.busy)');
    }
  });
});

describe('choosing with the pointer', () => {
  it('takes one, a few, a range, and lets go', async () => {
    await odile.go('/catalogue?q=kind+photo%3B+order+name');
    await odile.find('[role=listbox] img');
    const click = async (index: number, ...keys: string[]): Promise<void> => {
      const actions = odile.driver.actions();
      for (const key of keys) actions.keyDown(key);
      actions.move({ origin: (await tiles(odile))[index]! }).click();
      for (const key of keys) actions.keyUp(key);
      await actions.perform();
    };
    await click(1);
    expect(await selectedNames(odile)).toHaveLength(1);
    await click(3, Key.CONTROL);
    expect(await selectedNames(odile)).toHaveLength(2);
    await click(3, Key.CONTROL);
    expect(await selectedNames(odile)).toHaveLength(1);
    await click(1);
    await click(4, Key.SHIFT);
    await odile.says('4 selected');
    const names = await odile.driver.executeScript<string[]>(
      `return [...document.querySelectorAll('[role=option]')].slice(1, 5).map((tile) => tile.getAttribute('aria-label'));`,
    );
    expect(await selectedNames(odile)).toEqual(names);
    await odile.press(Key.ESCAPE);
    expect(await selectedNames(odile)).toEqual([]);
    await (await odile.wall()).sendKeys(Key.chord(Key.CONTROL, 'a'));
    await odile.says(`${(await idsOf(odile, 'kind photo')).length} selected`);
    await odile.press(Key.ESCAPE);
  });

  it('opens by a double click and comes back to where one was', async () => {
    await odile.go('/catalogue?q=kind+photo%3B+order+name');
    await odile.find('[role=listbox] img');
    const address = await odile.driver.getCurrentUrl();
    await odile.driver
      .actions()
      .doubleClick((await tiles(odile))[2])
      .perform();
    await odile.find('.close');
    expect(await odile.driver.getCurrentUrl()).toContain('q=kind+photo');
    await odile.driver.navigate().back();
    await odile.wall();
    expect(await odile.driver.getCurrentUrl()).toBe(address);
  });

  it('drags a picture of a collection to another place, and the order lasts', async () => {
    const ids = (await idsOf(odile, 'kind photo; has picture; order name')).slice(0, 4);
    const made = await ask<{ body: { id: string } }>(odile, '/api/collections', 'POST', {
      name: 'In another order',
      itemIds: ids,
    });
    await odile.go(`/collections/${made.body.id}`);
    await odile.eventually(
      async () => (await odile.driver.findElements(By.css('main li img'))).length >= 4,
      'the pictures of the collection',
    );
    const labels = (): Promise<string[]> =>
      odile.driver.executeScript(
        `return [...document.querySelectorAll('main li[aria-label]')].map((one) => one.getAttribute('aria-label').replace(/^\\d+: /, ''));`,
      );
    const before = await labels();
    const [first, , third] = await odile.driver.findElements(By.css('main li[aria-label]'));
    const actions = odile.driver.actions({ async: true });
    await actions
      .move({ origin: first! })
      .press()
      .move({ origin: Origin.POINTER, x: 12, y: 0, duration: 120 })
      .move({ origin: third!, duration: 300 })
      .pause(150)
      .release()
      .perform();
    const wished = [before[1], before[0], ...before.slice(2)];
    await odile.eventually(
      async () => (await labels()).join('|') === wished.join('|'),
      'the new order',
    );
    await odile.again();
    await odile.find('main li img');
    expect(await labels()).toEqual(wished);
    await ask(odile, `/api/collections/${made.body.id}`, 'DELETE');
  });
});

describe('the shell', () => {
  it('shows its keys, remembers the light, and leads everywhere by the keyboard', async () => {
    await odile.go('/catalogue');
    await odile.wall();
    await odile.press('?');
    await odile.find('dialog[open], [role=dialog]');
    expect(await odile.axe()).toEqual([]);
    await odile.press(Key.ESCAPE);
    await (await odile.find('button.me')).click();
    await odile.click('dim');
    const theme = (): Promise<string> =>
      odile.driver.executeScript('return document.documentElement.dataset.theme ?? ""');
    expect(await theme()).toBe('dim');
    await odile.again();
    await odile.wall();
    expect(await theme()).toBe('dim');
    expect(await odile.axe()).toEqual([]);
    await (await odile.find('button.me')).click();
    await odile.click('light');
    await odile.press(Key.ESCAPE);
    await odile.go('/catalogue');
    await odile.wall();
    const stops: string[] = [];
    await odile.driver.executeScript('document.activeElement.blur()');
    for (let step = 0; step < 18; step += 1) {
      await odile.press(Key.TAB);
      const [name, outline] = await odile.driver.executeScript<[string, string]>(
        `const at = document.activeElement; const style = getComputedStyle(at);
         return [(at.getAttribute('aria-label') ?? at.innerText).trim(), style.outlineStyle + style.outlineWidth];`,
      );
      stops.push(name);
      expect([name, outline]).not.toEqual([name, 'none0px']);
    }
    for (const area of ['Intake', 'Catalogue', 'Collections', 'Ledger'])
      expect(stops).toContain(area);
  });

  it('offers each role its verbs and no others', async () => {
    const jonas = await openBrowser(ADDRESS);
    try {
      await jonas.signIn(TEAMMATE!.email, DEMO_PASSWORD);
      await jonas.go('/catalogue?q=kind+photo');
      await (await jonas.wall()).sendKeys(Key.chord(Key.CONTROL, 'a'));
      await jonas.says('selected');
      const text = await (await jonas.find('.bar')).getText();
      expect(text).not.toContain('Rename');
      expect(text).not.toContain('Describe');
      const areas = await (await jonas.find('nav[aria-label=Areas]')).getText();
      expect(areas).not.toContain('Intake');
      await (await jonas.wall()).sendKeys('5');
      await jonas.go('/intake');
      await jonas.says('Your role does not open this door');
      expect(await jonas.axe()).toEqual([]);
      await jonas.complaints();
    } finally {
      await jonas.quit();
    }
  });

  it('ends a session from another window', async () => {
    const other = await openBrowser(ADDRESS);
    try {
      await other.signIn(CONTRIBUTOR!.email, DEMO_PASSWORD);
      await bea.go('/account');
      await bea.click('End it');
      await other.eventually(async () => {
        await other.go('/catalogue');
        return (await other.driver.getCurrentUrl()).includes('/sign-in');
      }, 'the other window to be signed out');
      await bea.go('/catalogue');
      await bea.find('.catalogue');
    } finally {
      await other.quit();
    }
  });
});

describe('every page', () => {
  it('opens by its own address, drawn by the server', async () => {
    const collections = await ask<{ body: { id: string }[] }>(odile, '/api/collections');
    const found = await ask<{ body: { number: string }[] }>(
      odile,
      '/api/catalogue/tiles?q=kind+photo&from=0&count=1',
    );
    const paths = [
      '/catalogue',
      '/catalogue?view=register',
      '/census',
      '/reference',
      '/intake',
      '/collections',
      '/dispatch',
      '/ledger',
      '/account',
      '/people',
      ...collections.body.slice(0, 1).map(({ id }) => `/collections/${id}`),
      ...found.body.slice(0, 1).map(({ number }) => `/catalogue/${number}`),
    ];
    expect(paths).toHaveLength(12);
    for (const path of paths) {
      const { status, html } = await odile.driver.executeAsyncScript<{
        status: number;
        html: string;
      }>(
        `const done = arguments[1];
         fetch(arguments[0]).then(async (answer) => done({ status: answer.status, html: await answer.text() }));`,
        path,
      );
      expect([path, status]).toEqual([path, 200]);
      expect(html).toContain('<main');
    }
  });
});

describe('the web server killed', () => {
  it('comes back by itself; nothing that was told is lost, a broken download is whole the next time', async () => {
    const [id] = await idsOf(odile, 'kind photo; order size down');
    const digest = (): Promise<string> =>
      odile.driver.executeAsyncScript(
        `const [id, done] = arguments;
         fetch('/api/items/' + id + '/original').then((answer) => answer.arrayBuffer())
           .then((bytes) => crypto.subtle.digest('SHA-256', bytes))
           .then((hash) => done([...new Uint8Array(hash)].map((byte) => byte.toString(16).padStart(2, '0')).join('')))
           .catch((error) => done('broken: ' + error.message));`,
        id,
      );
    const whole = await digest();
    const { body } = await ask<{ body: { files: { path: string }[] } }>(odile, `/api/items/${id}`);
    expect(whole).toBe(
      createHash('sha256').update(readFileSync(body.files[0]!.path)).digest('hex'),
    );
    const patch = (title: string) =>
      ask<{ status: number }>(odile, '/api/records', 'PATCH', { ids: [id], change: { title } });
    const titleNow = async (): Promise<string> =>
      (await ask<{ body: { record: { title: string } } }>(odile, `/api/items/${id}`)).body.record
        .title;
    let before = await titleNow();
    for (let round = 0; round < 3; round += 1) {
      const pids = execFileSync('pgrep', ['-f', 'cli/web.mjs'], { encoding: 'utf8' })
        .trim()
        .split('\n')
        .map(Number)
        .filter((pid) =>
          readFileSync(`/proc/${pid}/environ`, 'utf8').includes(`PORT=${new URL(ADDRESS).port}`),
        );
      expect(pids.length).toBeGreaterThan(0);
      const answer = patch(`Told ${round}`).catch(() => ({ status: 0 }));
      for (const pid of pids) process.kill(pid, 'SIGKILL');
      const { status } = await answer;
      await odile.eventually(
        async () => (await fetch(`${ADDRESS}/health`).catch(() => null))?.status === 200,
        'the server to be back',
      );
      // Told and answered, it is kept; without an answer it may be either, but never a third thing.
      const kept = await titleNow();
      if (status === 200) expect(kept).toBe(`Told ${round}`);
      else expect([before, `Told ${round}`]).toContain(kept);
      expect((await patch(`Kept ${round}`)).status).toBe(200);
      before = `Kept ${round}`;
      expect(await titleNow()).toBe(before);
    }
    const { status } = await patch('After the kill');
    expect(status).toBe(200);
    expect(await digest()).not.toContain('broken');
    await odile.go(`/catalogue?q=${encodeURIComponent('words "After the kill"')}`);
    await odile.says('After the kill');
    await odile.complaints();
  });
});
