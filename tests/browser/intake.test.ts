import { execFileSync } from 'node:child_process';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { By, Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import { openBrowser, type Visitor } from '../support/browser';
import { jpeg, writeJpeg } from '../support/pictures';

const ADDRESS = process.env['MINDFUL_TEST_ADDRESS']!;
const HOME = process.env['MINDFUL_TEST_HOME']!;
const SHELF = join(HOME, 'holdings/Studio shelf');
let visitor: Visitor;
let folder = '';

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'mindful-sent-'));
  visitor = await openBrowser(ADDRESS);
  await visitor.signIn(DEMO_ACCOUNTS[0]!.email, DEMO_PASSWORD);
});
afterAll(async () => {
  await visitor?.quit();
  rmSync(folder, { recursive: true, force: true });
});

/** Files as a card has them, in the folder that may be brought from. */
async function source(name: string, count: number, seed: number): Promise<string> {
  const root = join(HOME, 'incoming', name);
  for (let at = 0; at < count; at += 1)
    await writeJpeg(join(root, `OSK_${at + 1}.JPG`), seed + at, {
      'EXIF:DateTimeOriginal': `2026:10:0${at + 1} 10:00:00`,
      'EXIF:Model': at % 2 ? 'Tern X' : 'Heron 5',
    });
  return root;
}
const lookInto = async (path: string): Promise<void> => {
  await visitor.go('/intake');
  await visitor.click('A folder on the server');
  await visitor.write('Path', path);
  await visitor.click('Look');
  await visitor.click('Look through this folder');
  await looked();
};
const looked = async (): Promise<void> => {
  await visitor.says('chosen of');
  await visitor.eventually(
    async () => (await visitor.driver.findElements(By.css('.looking'))).length === 0,
    'everything to be looked at',
  );
};
const choose = async (label: string, words: string): Promise<void> => {
  const select = await visitor.find(`select[aria-label="${label}"]`);
  for (const option of await select.findElements(By.css('option')))
    if ((await option.getText()).includes(words)) return option.click();
  throw new Error(`no choice “${words}” in ${label}`);
};
/** Nothing is at work; what is short is not shown as underway, so the server is asked. */
const quiet = (): Promise<void> =>
  visitor.eventually(
    () =>
      visitor.driver.executeAsyncScript<boolean>(
        `const done = arguments[0];
         fetch('/api/jobs').then((answer) => answer.json())
           .then((jobs) => done(jobs.every(({ state, after }) => !['waiting', 'running'].includes(state) && after.waiting === 0)))`,
      ),
    'nothing to be underway',
  );

describe('from this computer', () => {
  it('sends files in pieces, tells what is held under their names, and brings them in', async () => {
    const paths: string[] = [];
    for (const [name, seed] of [
      ['sent one.jpg', 3001],
      ['sent two.jpg', 3002],
    ] as const) {
      paths.push(join(folder, name));
      writeFileSync(paths.at(-1)!, await jpeg(seed, 600, 400));
    }
    await visitor.go('/intake');
    await visitor.click('This computer');
    expect(await visitor.axe()).toEqual([]);
    await (await visitor.find('input[type=file][multiple]')).sendKeys(paths.join('\n'));
    await visitor.says('100 % sent');
    await visitor.click('Look through them');
    await looked();
    await visitor.write('Filing pattern', 'Sent');
    await visitor.write('Name pattern', '{name}');
    await visitor.says('sent one.jpg');
    await visitor.click('Bring in 2 items');
    await visitor.says('is underway');
    await visitor.eventually(
      async () => existsSync(join(SHELF, 'Sent/sent two.jpg')),
      'the upload to be in its place',
    );
    await quiet();

    // The same name once more: asked before a byte is sent.
    writeFileSync(paths[0]!, await jpeg(3003, 600, 400));
    await visitor.go('/intake');
    await visitor.click('This computer');
    await (await visitor.find('input[type=file][multiple]')).sendKeys(paths.join('\n'));
    await visitor.says('are held already');
    expect(await visitor.axe()).toEqual([]);
    await choose(`What becomes of sent one.jpg`, 'as new version');
    await choose(`What becomes of sent two.jpg`, 'skip');
    await visitor.click('Send them');
    await visitor.says('Look through them');
    await visitor.click('Look through them');
    await looked();
    await visitor.says('1 chosen of 1');
    await visitor.click('Bring in 1 item');
    await visitor.says('is underway');
    await quiet();
    await visitor.go('/catalogue?q=words+%22sent+one%22%3B+order+brought+down');
    await (await visitor.wall()).sendKeys(Key.ARROW_RIGHT);
    await visitor.says('version of');
  });

  it('goes on after the web server was killed in the middle', async () => {
    const big = join(folder, 'big.tif');
    await sharp({
      create: {
        width: 4200,
        height: 3000,
        channels: 3,
        background: '#888',
        noise: { type: 'gaussian', mean: 128, sigma: 60 },
      },
    })
      .tiff({ compression: 'none' })
      .toFile(big);
    await visitor.go('/intake');
    await visitor.click('This computer');
    await (await visitor.find('input[type=file][multiple]')).sendKeys(big);
    await visitor.driver.sleep(150);
    const port = new URL(ADDRESS).port;
    const pids = execFileSync('pgrep', ['-f', 'cli/web.mjs'], { encoding: 'utf8' })
      .trim()
      .split('\n')
      .map(Number)
      .filter((pid) =>
        execFileSync('cat', [`/proc/${pid}/environ`], { encoding: 'utf8' }).includes(
          `PORT=${port}`,
        ),
      );
    for (const pid of pids) process.kill(pid, 'SIGKILL');
    await visitor.says('100 % sent');
    await visitor.click('Look through them');
    await looked();
    await visitor.says('1 chosen of 1');
    await visitor.complaints();
  });
});

describe('what arrived and was not brought in', () => {
  const waiting = () => visitor.driver.findElements(By.css('[data-parcel]'));

  it('waits under the sources, can be looked through, and goes at the second press only', async () => {
    await visitor.go('/intake');
    await visitor.says('Arrived, not brought in');
    const before = (await waiting()).length;
    expect(before).toBeGreaterThan(0);
    const id = await (await waiting())[0]!.getAttribute('data-parcel');
    const parcel = join(HOME, 'uploads', id!);
    expect(existsSync(parcel)).toBe(true);
    await (await visitor.find(`[data-parcel="${id}"] button`)).click();
    await looked();
    await visitor.says('1 chosen of 1');
    await visitor.click('Let go', `[data-parcel="${id}"]`);
    await visitor.says('Delete them?');
    expect(existsSync(parcel)).toBe(true);
    await visitor.click('Delete them?', `[data-parcel="${id}"]`);
    await visitor.eventually(
      async () => (await waiting()).length === before - 1,
      'the parcel to be gone',
    );
    expect(existsSync(parcel)).toBe(false);
    expect(await visitor.axe()).toEqual([]);
    await visitor.complaints();
  });
});

describe('a web address', () => {
  it('lists what a page shows and fetches what is chosen; private addresses are refused', async () => {
    await visitor.go('/intake');
    await visitor.click('A web address');
    await visitor.write('Web address', 'http://192.168.0.1/');
    await visitor.click('List its pictures');
    await visitor.says('private network');
    await visitor.write('Web address', ' ');
    await visitor.driver.executeScript(
      `const input = document.querySelector('[aria-label="Web address"]'); input.value = ''; input.dispatchEvent(new Event('input', { bubbles: true }));`,
    );
    await visitor.click('http://127.0.0.1');
    await visitor.click('List its pictures');
    await visitor.says('8 pictures');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('none');
    const boxes = await visitor.driver.findElements(By.css('dialog input[type=checkbox]'));
    await boxes[0]!.click();
    await boxes[1]!.click();
    await visitor.click('Fetch 2 pictures');
    await looked();
    await visitor.says('chosen of 2');
    await visitor.complaints();
  });
});

describe('a spreadsheet', () => {
  it('is run dry with its faults by row and column; good rows come in', async () => {
    const sheet = join(folder, 'Agency.csv');
    writeFileSync(
      sheet,
      '\ufeffFile;Title;Rating\r\nagency one.jpg;From the agency;4\r\nagency two.jpg;Wrong;lots\r\n',
    );
    const pictures = ['agency one.jpg', 'agency two.jpg'].map((name) => join(folder, name));
    for (const [at, path] of pictures.entries())
      writeFileSync(path, await jpeg(5100 + at, 600, 400));
    await visitor.go('/intake');
    await visitor.click('A spreadsheet');
    expect(await visitor.axe()).toEqual([]);
    await (
      await visitor.find('[aria-label="Send a sheet and its files"]')
    ).sendKeys([sheet, ...pictures].join('\n'));
    await visitor.says('“lots” is no rating');
    expect(await visitor.axe()).toEqual([]);
    await visitor.write('Filing of the rows', 'Agency');
    await visitor.click('Bring in 1 good row');
    await visitor.says('is underway');
    await visitor.eventually(
      async () => existsSync(join(SHELF, 'Agency/agency one.jpg')),
      'the good row to be there',
    );
    expect(existsSync(join(SHELF, 'Agency/agency two.jpg'))).toBe(false);
    await visitor.complaints();
  });
});

describe('a card', () => {
  it('pulled out says so; plugged in again it can be looked through', async () => {
    await visitor.go('/intake');
    await visitor.click('Pull out Phone');
    await visitor.says('Plug in');
    expect(existsSync(join(HOME, 'devices/phone-beach'))).toBe(false);
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Plug in Phone');
    await visitor.eventually(
      async () => existsSync(join(HOME, 'devices/phone-beach')),
      'the phone',
    );
    await visitor.click('Phone, beach team');
    await looked();
  });

  it('is divided between two plans; moving asks for a word; the report tells and empties', async () => {
    const root = await source('two plans', 4, 4100);
    await lookInto(root);
    await visitor.says('4 chosen of 4');
    await visitor.click('+ another plan');
    await visitor.says('0 chosen of 4');
    const tiles = await visitor.driver.findElements(By.css('[role=option]'));
    await tiles[0]!.click();
    await visitor.says('1 chosen of 4');
    expect(await visitor.axe()).toEqual([]);
    await choose('Way in', 'moving');
    await visitor.says('there is one copy only');
    const button = await visitor.find('.plan footer button');
    expect(await button.isEnabled()).toBe(false);
    await (await visitor.find('.plan .word input[type=checkbox]')).click();
    await visitor.write('Filing pattern', 'Moved');
    await visitor.write('Name pattern', '{name}');
    await visitor.says('Moved/');
    await visitor.click('Bring in 1 item');
    await visitor.eventually(async () => !existsSync(join(root, 'OSK_1.JPG')), 'the source to go');
    expect(readdirSync(join(SHELF, 'Moved'))).toEqual(['OSK_1.jpg']);
    // The other plan still has its three.
    await visitor.says('3 chosen of 4');
    await visitor.click('as the cameras told them');
    await visitor.write('Clock of Tern X, hours:minutes:seconds', '+1:00:00');
    await visitor.press(Key.TAB);
    await visitor.says('11:00:00');
    await visitor.write('Filing pattern', 'Kept');
    await visitor.write('Name pattern', '{taken HHmm}-{name}');
    await visitor.says('1100-OSK_2.jpg');
    await visitor.click('Save this plan');
    await visitor.write('Name of the plan', 'Clock right');
    await visitor.click('Save');
    await visitor.says('is saved');
    await visitor.click('Bring in 3 items');
    await visitor.eventually(
      async () => existsSync(join(SHELF, 'Kept')) && readdirSync(join(SHELF, 'Kept')).length >= 3,
      'the others to be there',
    );
    await quiet();
    await visitor.go('/intake');
    await (await visitor.find('.side a[href^="/intake/"]')).click();
    await visitor.says('copied and verified into');
    await visitor.says('xxh3-128');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Empty the source');
    await visitor.says('will have one copy only');
    expect(readdirSync(root)).toHaveLength(3);
    await visitor.click('Delete 3 files there');
    await visitor.eventually(async () => readdirSync(root).length === 0, 'the source to be empty');
    const csv = await visitor.driver.executeAsyncScript<string>(
      `const done = arguments[0]; fetch(document.querySelector('a[href$="/report"]').href).then((answer) => answer.text()).then(done);`,
    );
    expect(csv.split('\r\n')[0]).toMatch(/^accession,item,from/);
    await visitor.complaints();
  });

  it('is looked for by a path that is typed before the folders are there', async () => {
    const root = await source('typed early', 1, 4350);
    await visitor.go('/intake');
    await visitor.late('/api/intake/folders');
    await visitor.click('A folder on the server');
    await visitor.write('Path', root);
    await visitor.find('body[data-late=came]');
    expect(await (await visitor.find('[aria-label="Path"]')).getAttribute('value')).toBe(root);
    await visitor.click('Look');
    await visitor.says('1 file here');
    await visitor.press(Key.ESCAPE);
  });

  it('keeps a plan for the next time', async () => {
    const root = await source('next time', 1, 4300);
    await lookInto(root);
    await choose('Saved plan', 'Clock right');
    const filing = await visitor.find('[aria-label="Filing pattern"]');
    await visitor.eventually(
      async () =>
        (await filing.getAttribute('value')) === 'Kept' || (await filing.getText()) === 'Kept',
      'the saved plan',
    );
  });
});

describe('places', () => {
  it('kept in place are followed; away and back again are told; hands off is kept', async () => {
    const root = await source('kept here', 2, 4400);
    await lookInto(root);
    await choose('Way in', 'keeping them in place');
    await visitor.says('not a byte in');
    await visitor.click('Bring in 2 items');
    await visitor.says('is underway');
    await quiet();
    await visitor.go('/places');
    await visitor.says('kept here');
    const line = async (): Promise<string> =>
      (await visitor.find('[aria-label="kept here"]')).getText();
    await visitor.eventually(async () => (await line()).includes('2 items'), 'both items');
    expect(await visitor.axe()).toEqual([]);
    renameSync(root, `${root} gone`);
    await visitor.says('away since');
    renameSync(`${root} gone`, root);
    await visitor.eventually(
      async () => !(await (await visitor.find('.places')).getText()).includes('away since'),
      'the place to be back',
    );
    mkdirSync(join(root, 'later'));
    await writeJpeg(join(root, 'later/new.jpg'), 4500);
    await visitor.eventually(
      async () => (await line()).includes('3 items'),
      'the new file to be followed',
    );
    await (await visitor.find('[aria-label="kept here"] input[type=checkbox]')).click();
    await visitor.says('Nothing of ours writes in “kept here” now');
    expect(await visitor.complaints()).toEqual([]);
  });
});
