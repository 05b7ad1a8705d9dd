import { readdirSync } from 'node:fs';
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { By, Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import { openBrowser, type Visitor } from '../support/browser';

const ADDRESS = process.env['MINDFUL_TEST_ADDRESS']!;
const SHELF = join(process.env['MINDFUL_TEST_HOME']!, 'holdings/Studio shelf');
const [KEEPER] = DEMO_ACCOUNTS;
let visitor: Visitor;
let guest: Visitor;

beforeAll(async () => {
  visitor = await openBrowser(ADDRESS);
  guest = await openBrowser(ADDRESS);
});
afterAll(async () => {
  await visitor?.quit();
  await guest?.quit();
});

const total = async (): Promise<number> =>
  Number((await (await visitor.find('.sentence strong')).getText()).replaceAll(',', ''));
let link = '';

describe('from the card to the guest', () => {
  it('refuses a wrong password and lets the keeper in', async () => {
    await visitor.go('/catalogue?q=rated%203..');
    await visitor.says('Sign in');
    expect(await visitor.axe()).toEqual([]);
    await visitor.fill('input[name=email]', KEEPER!.email);
    await visitor.fill('input[name=password]', 'not the password');
    await visitor.click('Sign in');
    await visitor.says('do not go together');
    await visitor.fill('input[name=password]', DEMO_PASSWORD);
    await visitor.click('Sign in');
    await visitor.says('three pips or more');
    await visitor.complaints();
  });

  it('looks through a card: what is held is left out, the rest is planned in sentences', async () => {
    await visitor.go('/intake');
    expect(await visitor.axe()).toEqual([]);
    // The demo's own making is nobody else's change: watching has found nothing.
    expect(await (await visitor.find('.side')).getText()).not.toContain('Found in');
    await visitor.click('Camera card B');
    await visitor.says('2 already held');
    await visitor.eventually(
      async () => (await visitor.driver.findElements(By.css('.looking'))).length === 0,
      'everything to be looked at',
    );
    await visitor.says('chosen of');
    expect(await visitor.axe()).toEqual([]);
    await visitor.write('Name pattern', '{counter 1');
    await visitor.says('is not closed');
    await visitor.write('Name pattern', 'CARD-{taken MMdd}-{counter 001 by day}');
    await visitor.says('CARD-0913-001.jpg');
    await visitor.write('Filing pattern', 'Wind Week/Card/{taken yyyy-MM-dd}');
    await visitor.says('Wind Week/Card/2026-09-13/');
    await visitor.write('Terms', 'Kite, From the card');
    await visitor.click('Bring in');
    await visitor.says('is underway');
    // The page becomes the report and fills by itself.
    await visitor.eventually(
      async () => /\/intake\/\d{4}\.\d{3}$/.test(await visitor.driver.getCurrentUrl()),
      'the report',
    );
    await visitor.eventually(
      async () => (await visitor.named('Nothing underway')) !== null,
      'the intake to end',
    );
    await visitor.eventually(
      async () => (await visitor.driver.findElements(By.css('.arrived img'))).length > 3,
      'the pictures that came in',
    );
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Left out 0', '.filter');
    await visitor.says('None.');
    expect(readdirSync(join(SHELF, 'Wind Week/Card/2026-09-13'))).toContain('CARD-0913-001.jpg');
  });

  it('finds them by the sentence, opened or typed, and the address holds the state', async () => {
    await visitor.go('/catalogue');
    expect(await visitor.axe()).toEqual([]);
    const all = await total();
    await visitor.press('/');
    await visitor.find('[aria-label="Type into the sentence"]');
    await visitor.press('from the ca');
    await visitor.find('.completions mark');
    await visitor.press(Key.ENTER);
    await visitor.says('about “From the card”');
    const brought = await total();
    expect(brought).toBeGreaterThan(5);
    expect(brought).toBeLessThan(all);
    await visitor.click('items of every kind');
    await visitor.click('photos', '.sheet');
    await visitor.says('photos in all holdings');
    const photos = await total();
    expect(photos).toBeLessThan(brought);
    expect(await visitor.driver.getCurrentUrl()).toContain('kind+photo');
    await visitor.driver.navigate().back();
    await visitor.says('items of every kind');
    expect(await total()).toBe(brought);
    await visitor.again();
    expect(await total()).toBe(brought);
  });

  it('shows the register with the same items', async () => {
    const before = await total();
    await visitor.click('Register');
    await visitor.find('[role=grid]');
    expect(Number(await (await visitor.find('[role=grid]')).getAttribute('aria-rowcount'))).toBe(
      before + 1,
    );
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Wall', '.views');
    await visitor.wall();
  });

  it('selects, peeks and describes by the keyboard; the file follows', async () => {
    await visitor.go('/catalogue?q=term+%22From+the+card%22%3B+kind+photo%3B+order+name');
    let list = await visitor.wall();
    await list.sendKeys(Key.ARROW_RIGHT);
    await list.sendKeys(Key.SPACE);
    await visitor.find('.peek img');
    await visitor.eventually(
      async () =>
        (await visitor.driver.executeScript(`
          const [a, b] = ['.peek', '.tile.focused'].map((css) => document.querySelector(css).getBoundingClientRect());
          return a.right <= b.left || a.left >= b.right || a.bottom <= b.top || a.top >= b.bottom;`)) ===
        true,
      'the peek beside what it belongs to',
    );
    await list.sendKeys(Key.SPACE);
    await visitor.click('Fold away: Record card');
    expect(await (await visitor.find('.side .held')).isDisplayed()).toBe(false);
    await visitor.again();
    await visitor.click('Unfold: Record card');
    list = await visitor.wall();
    await list.sendKeys(Key.ARROW_RIGHT);
    await list.sendKeys(Key.chord(Key.SHIFT, Key.ARROW_RIGHT));
    await visitor.says('2 selected');
    expect(await visitor.axe()).toEqual([]);
    await list.sendKeys('4');
    await visitor.says('2 records changed');
    await list.sendKeys('d');
    await visitor.says('Shortlist');
    await (await visitor.named('Title:')).click();
    await (await visitor.find('input[aria-label="Title"]')).sendKeys('Off the card', Key.ENTER);
    await visitor.says('Off the card');
    const path = join(SHELF, 'Wind Week/Card/2026-09-13/CARD-0913-001.jpg');
    const read = (): string =>
      execFileSync('exiv2', ['-q', '-Pkt', '-g', 'Xmp', path], { encoding: 'utf8' });
    await visitor.eventually(
      async () => /Xmp\.dc\.title.*Off the card/.test(read()),
      'the title to be in the file',
    );
    expect(read()).toMatch(/Xmp\.xmp\.Rating\s+4/);
    expect(read()).toMatch(/Xmp\.xmp\.Label\s+Shortlist/);
  });

  it('looks closer: fit, one to one, next; footage and sound play', async () => {
    await visitor.go('/catalogue?q=kind+photo%3B+order+size+down');
    const list = await visitor.wall();
    await list.sendKeys(Key.ARROW_RIGHT, Key.ENTER);
    await visitor.find('.zoom[data-ready=true]');
    const state = async (): Promise<string> => (await visitor.find('.zoom .state')).getText();
    const fitted = await state();
    await visitor.press(Key.ENTER);
    await visitor.eventually(async () => (await state()).includes('100 %'), 'one to one');
    await visitor.press(Key.ENTER);
    await visitor.eventually(async () => (await state()) === fitted, 'the whole picture again');
    expect(await visitor.axe()).toEqual([]);
    const first = await visitor.driver.getCurrentUrl();
    await visitor.press(Key.ARROW_RIGHT);
    await visitor.driver.wait(async () => (await visitor.driver.getCurrentUrl()) !== first, 20_000);
    await visitor.press(Key.ESCAPE);
    await visitor.wall();
    for (const kind of ['footage', 'sound']) {
      await visitor.go(`/catalogue?q=kind+${kind}%3B+order+name`);
      await (await visitor.wall()).sendKeys(Key.ARROW_RIGHT, Key.ENTER);
      const media = await visitor.find(kind === 'footage' ? 'video' : 'audio');
      await visitor.driver.executeScript(
        'arguments[0].muted = true; return arguments[0].play()',
        media,
      );
      await visitor.eventually(
        async () =>
          Number(await visitor.driver.executeScript('return arguments[0].currentTime', media)) >
          0.2,
        `${kind} to play`,
      );
    }
  });

  it('renames with every name shown; the ledger undoes it', async () => {
    const folder = join(SHELF, 'Wind Week/Card/2026-09-13');
    const before = readdirSync(folder).sort();
    await visitor.go('/catalogue?q=term+%22From+the+card%22%3B+taken+2026-09-13%3B+order+name');
    await (await visitor.wall()).sendKeys(Key.chord(Key.CONTROL, 'a'));
    await visitor.says('selected');
    await visitor.click('Rename', '.bar');
    await visitor.write('Name pattern', 'same');
    await visitor.says('cannot be given as they are');
    await visitor.write('Name pattern', 'WW-{counter 01}-{name}');
    await visitor.says('WW-01-CARD');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Rename', 'dialog');
    await visitor.eventually(
      async () => readdirSync(folder).every((name) => name.startsWith('WW-')),
      'the new names',
    );
    await visitor.go('/ledger');
    await visitor.says('by “WW-{counter 01}-{name}”');
    expect(await visitor.axe()).toEqual([]);
    // The newest line, once all of it is done: another's below may be taken back before.
    await visitor.click('Undo', 'tbody tr:first-child');
    await visitor.eventually(
      async () => readdirSync(folder).sort().join() === before.join(),
      'the old names',
    );
    await visitor.says('undone');
    await (await visitor.find('select[aria-label="Kind of change"]')).sendKeys('names');
    await visitor.eventually(
      async () => (await visitor.driver.getCurrentUrl()).includes('kind=rename'),
      'the address to hold what is asked for',
    );
    await (
      await visitor.find('input[aria-label="Catalogue number or words"]')
    ).sendKeys('no such words', Key.ENTER);
    await visitor.says('Nothing was changed that is so.');
    await visitor.click('everything');
    await visitor.says('undone');
    expect(await visitor.axe()).toEqual([]);
  });

  it('collects, puts in order and opens a reading room', async () => {
    await visitor.go('/catalogue?q=term+%22From+the+card%22%3B+kind+photo%3B+order+name');
    await (await visitor.wall()).sendKeys(Key.chord(Key.CONTROL, 'a'));
    await visitor.click('Collect', '.bar');
    await (await visitor.find('dialog input')).sendKeys('Off the card, for Ana');
    await visitor.click('Make it', 'dialog');
    await visitor.says('made with');
    await visitor.go('/collections');
    expect(await visitor.axe()).toEqual([]);
    await (await visitor.find('a[href^="/collections/"]:has(strong)')).getText();
    await visitor.driver.executeScript(
      `[...document.querySelectorAll('a strong')].find((e) => e.innerText.startsWith('Off the card')).closest('a').click()`,
    );
    await visitor.says('Drag to put in order');
    const first = await visitor.find('main ul li');
    const label = ((await first.getAttribute('aria-label')) ?? '').replace(/^1: /, '');
    await first.sendKeys(Key.chord(Key.ALT, Key.ARROW_RIGHT));
    await visitor.eventually(
      async () =>
        (
          (await (await visitor.find('main ul li:nth-child(2)')).getAttribute('aria-label')) ?? ''
        ).endsWith(label),
      'the new order',
    );
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Open a reading room');
    await visitor.click('Open it', 'dialog');
    await visitor.says('shown only now');
    link = (await (await visitor.find('dialog input[readonly]')).getAttribute('value')) ?? '';
    expect(link).toMatch(/\/r\/[\w-]{43}$/);
  });

  it('lets a guest look, pick and take away on a small screen, and nothing more', async () => {
    await guest.resize(390, 844);
    await guest.go(link);
    await guest.says('Off the card, for Ana');
    expect(await guest.axe()).toEqual([]);
    expect(
      Number(await guest.driver.executeScript('return document.documentElement.scrollWidth')),
    ).toBeLessThanOrEqual(390);
    await (await guest.find('button.pick')).click();
    await guest.says('Your picks: 1');
    // It is sent on though the page goes; the new one may be quicker.
    await guest.eventually(async () => {
      await guest.again();
      return (await (await guest.find('header')).getText()).includes('Your picks: 1');
    }, 'the pick to be kept');
    await (await guest.find('button.picture')).click();
    const download = (await (await guest.find('a[href$="/2048"]')).getAttribute('href')) ?? '';
    expect(await guest.axe()).toEqual([]);
    const answer = await fetch(download);
    expect(answer.headers.get('content-disposition')).toContain('-2048.jpg');
    const { width, height, format } = await sharp(
      Buffer.from(await answer.arrayBuffer()),
    ).metadata();
    expect([format, Math.max(width, height)]).toEqual(['jpeg', expect.any(Number)]);
    expect((await fetch(download.replace(/2048$/, 'original'))).status).toBe(403);
    const picture = download.replace('/file/', '/picture/').replace(/2048$/, 'medium');
    expect((await fetch(picture)).status).toBe(200);
    expect((await fetch(`${ADDRESS}/catalogue`, { redirect: 'manual' })).status).toBe(303);

    await visitor.go('/dispatch');
    await visitor.says('1 pick');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Close it');
    await visitor.says('is closed');
    for (const address of [link, picture, download])
      expect((await fetch(address)).status).toBe(410);
    await guest.go(link);
    await guest.says('This reading room is closed');
    await guest.complaints();
  });

  it('keeps account and people in order, and shows a page of its own for nothing', async () => {
    for (const path of ['/account', '/people']) {
      await visitor.go(path);
      expect(await visitor.axe()).toEqual([]);
    }
    // The pattern typed wrongly on purpose was refused by the server.
    expect(
      (await visitor.complaints()).filter((line) => !line.includes('/api/intake/plan')),
    ).toEqual([]);
    await visitor.go('/no-such-room');
    await visitor.says('Nothing is filed here');
    expect(await visitor.axe()).toEqual([]);
    await visitor.complaints();
  });
});

describe('doors', () => {
  const signIn = async (email: string): Promise<string> => {
    const answer = await fetch(`${ADDRESS}/sign-in`, {
      method: 'POST',
      headers: { origin: ADDRESS, 'content-type': 'application/x-www-form-urlencoded' },
      body: new URLSearchParams({ email, password: DEMO_PASSWORD }),
    });
    return answer.headers
      .getSetCookie()
      .map((cookie) => cookie.split(';')[0])
      .join('; ');
  };
  const status = async (cookie: string, path: string, method = 'GET'): Promise<number> =>
    (
      await fetch(ADDRESS + path, {
        method,
        headers: { cookie, origin: ADDRESS, 'content-type': 'application/json' },
        redirect: 'manual',
        ...(method === 'GET' ? {} : { body: '{}' }),
      })
    ).status;

  it('are kept by the running server for each role', async () => {
    const doors: [string, string, number[]][] = [
      ['/api/catalogue/wall', 'GET', [200, 200, 200, 200]],
      ['/api/records', 'PATCH', [400, 400, 403, 400]],
      ['/api/rename/material', 'POST', [400, 403, 403, 403]],
      ['/api/intake/accessions', 'POST', [400, 400, 403, 403]],
      ['/api/rooms', 'POST', [400, 403, 400, 403]],
      ['/people', 'GET', [200, 403, 403, 403]],
      ['/ledger', 'GET', [200, 200, 403, 200]],
      ['/places', 'GET', [200, 403, 403, 403]],
      ['/api/intake/plans', 'GET', [200, 200, 403, 403]],
      ['/api/intake/parcels', 'POST', [400, 400, 403, 403]],
      ['/api/intake/web', 'POST', [400, 400, 403, 403]],
      ['/api/intake/sheets?format=csv', 'GET', [200, 200, 403, 403]],
      ['/api/intake/drop-zone', 'GET', [200, 200, 403, 403]],
      ['/api/intake/drop-zone', 'PUT', [400, 403, 403, 403]],
      ['/api/uploads', 'POST', [412, 412, 403, 403]],
      ['/api/intake/devices/card-b', 'PUT', [400, 400, 403, 403]],
    ];
    const cookies = await Promise.all(DEMO_ACCOUNTS.map(({ email }) => signIn(email)));
    for (const [path, method, wished] of doors) {
      expect([
        path,
        await Promise.all(cookies.map((cookie) => status(cookie, path, method))),
      ]).toEqual([path, wished]);
      expect([303, 401]).toContain(await status('', path, method));
    }
  });

  it('stay closed to other sites and to ended sessions', async () => {
    const cookie = await signIn(KEEPER!.email);
    const foreign = await fetch(`${ADDRESS}/api/records`, {
      method: 'PATCH',
      headers: { cookie, origin: 'https://elsewhere.example', 'content-type': 'application/json' },
      body: '{}',
    });
    expect(foreign.status).toBe(403);
    await fetch(`${ADDRESS}/sign-out`, {
      method: 'POST',
      headers: { cookie, origin: ADDRESS },
      redirect: 'manual',
    });
    expect(await status(cookie, '/api/catalogue/wall')).toBe(401);
  });

  it('send the headers that keep pages safe', async () => {
    const answer = await fetch(`${ADDRESS}/sign-in`);
    expect(answer.headers.get('content-security-policy')).toMatch(/script-src 'self' 'nonce-/);
    expect(answer.headers.get('x-content-type-options')).toBe('nosniff');
    expect(answer.headers.get('x-frame-options')).toBe('DENY');
    expect(await (await fetch(`${ADDRESS}/health`)).json()).toMatchObject({
      status: 'ready',
      database: 'ready',
      worker: 'ready',
    });
  });
});
