import { existsSync, readdirSync, rmSync } from 'node:fs';
import { join, relative } from 'node:path';
import { By, Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import { openBrowser, type Visitor } from '../support/browser';

/** Names and folders of many files, seen before, done once, taken back. */
let visitor: Visitor;
const SHELF = join(process.env['MINDFUL_TEST_HOME']!, 'holdings/Studio shelf');
const Q = 'kind photo; in "Studio shelf"; has taken; order number';
beforeAll(async () => {
  visitor = await openBrowser(process.env['MINDFUL_TEST_ADDRESS']!);
  await visitor.signIn(DEMO_ACCOUNTS[0]!.email, DEMO_PASSWORD);
});
afterAll(() => visitor?.quit());

/** Every file of the shelf. */
const files = (): string[] =>
  // Told by the folder itself: a file may be on its way elsewhere while it is looked at.
  readdirSync(SHELF, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map(({ parentPath, name }) => relative(SHELF, join(parentPath, name)))
    .filter((path) => !path.startsWith('ascmhl'))
    .sort();
const chooseThree = async (): Promise<void> => {
  await visitor.go(`/catalogue?q=${encodeURIComponent(Q)}`);
  const take = Key.chord(Key.SHIFT, Key.ARROW_RIGHT);
  await (await visitor.wall()).sendKeys(Key.ARROW_RIGHT, take, take);
  await visitor.find('.bar');
};
const undo = (): Promise<void> =>
  visitor.driver.executeScript(
    `[...document.querySelectorAll('.notices button')].filter((one) => one.innerText === 'Undo').at(-1).click()`,
  );
const backTo = (before: string[]) =>
  visitor.eventually(async () => files().join() === before.join(), 'files as they were');
/** New names as they are shown, in their order. */
const shown = (): Promise<string[]> =>
  visitor.driver.executeScript(
    `return [...document.querySelectorAll('dialog [role=row]')].map((row) => row.children[2]?.innerText ?? '')`,
  );
const shows = (test: (names: string[]) => boolean, what: string) =>
  visitor.eventually(async () => test(await shown()), what);
const choose = async (label: string, words: string): Promise<void> => {
  const select = await visitor.find(`dialog select[aria-label="${label}"]`);
  await select
    .findElement(By.xpath(`.//option[starts-with(normalize-space(), "${words}")]`))
    .click();
};

describe('names of a selection', () => {
  it('are built of chips that say what the text says', async () => {
    const before = files();
    await chooseThree();
    await visitor.click('Rename', '.bar');
    await visitor.write('Name pattern', '{city, else "nowhere"}-{counter 01}');
    await shows((names) => /^nowhere-01\./.test(names[0] ?? ''), 'what else is said');
    await choose('Add a piece to Name pattern', 'present name');
    await visitor.eventually(
      async () =>
        (await (await visitor.find('[aria-label="Name pattern"]')).getAttribute('value')) ===
        '{city, else "nowhere"}-{counter 01}{name}',
      'the text of the new chip',
    );
    await choose('And then', 'first characters');
    await choose('And then', 'in small letters');
    await shows(
      (names) => /^nowhere-01[a-z0-9_.-]{1,8}\./.test(names[0] ?? ''),
      'eight small letters',
    );
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('take it out', 'dialog');
    await (await visitor.named('counter 01', 'dialog')).click();
    await choose('Filled from', 'ISO');
    await shows((names) => !/-01/.test(names.join()), 'another source');
    await visitor.press(Key.ESCAPE);
    expect(files()).toEqual(before);
  });

  it('clash until a rule settles it; are looked at by kind; are counted in an order moved by hand', async () => {
    const before = files();
    await chooseThree();
    await visitor.click('Rename', '.bar');
    await visitor.write('Name pattern', 'same');
    await choose('Where two would have one name', 'say so and wait');
    await visitor.says('3 names cannot be given as they are.');
    await visitor.click('clashing', 'dialog .filters');
    expect(await (await visitor.find('dialog footer button')).isEnabled()).toBe(false);
    await choose('Where two would have one name', 'leave the later one as it is');
    await visitor.says('left as it is');
    await choose('Where two would have one name', 'put a, b … behind');
    await shows(
      (names) => names.filter((name) => /^same[ab]?\./.test(name)).length === 3,
      'letters',
    );
    await visitor.write('Name pattern', 'N{counter 1}');
    await visitor.click('all', 'dialog .filters');
    const first = (): Promise<string> =>
      visitor.driver.executeScript(
        `return document.querySelector('dialog [role=row]').children[1].innerText`,
      );
    await shows((names) => names[0]?.startsWith('N1') === true, 'a count');
    const [one] = [await first()];
    await (
      await visitor.find('dialog [role=row] button')
    ).sendKeys(Key.chord(Key.ALT, Key.ARROW_DOWN));
    await visitor.eventually(async () => (await first()) !== one, 'another one first');
    await visitor.says('1 moved by hand');
    await visitor.click('Rename 3 items', 'dialog');
    await visitor.eventually(
      async () => files().filter((path) => /(^|\/)N[123]\.\w+$/.test(path)).length === 3,
      'the new names',
    );
    await visitor.says('Renaming 3 items.');
    await undo();
    await backTo(before);
  });

  it('are found and replaced, also by an expression; a wrong one is said', async () => {
    await chooseThree();
    await visitor.click('Rename', '.bar');
    await visitor.click('find and replace', 'dialog');
    await (await visitor.find('dialog .find input')).sendKeys('(');
    await (await visitor.find('dialog .find input[type=checkbox]')).click();
    await visitor.says('is no regular expression we know');
    await (await visitor.find('dialog .find input')).sendKeys(Key.BACK_SPACE, '^.*?(\\d+)$');
    await (await visitor.find('dialog .find label:nth-of-type(2) input')).sendKeys('No $1');
    await shows((names) => names.some((name) => /^No \d+\./.test(name)), 'rewritten names');
    expect(await visitor.axe()).toEqual([]);
    await visitor.press(Key.ESCAPE);
  });

  it('can be kept under a name and taken again', async () => {
    await chooseThree();
    await visitor.click('Rename', '.bar');
    await visitor.write('Name pattern', 'Kept-{counter 001 of "kept"}');
    await visitor.click('keep this pattern', 'dialog');
    await visitor.write('Name to keep it by', 'For the press');
    await visitor.press(Key.ENTER);
    await visitor.says('Kept as “For the press”.');
    await visitor.write('Name pattern', 'x{counter 1}');
    await choose('Kept patterns', 'For the press');
    await shows((names) => names[0]?.startsWith('Kept-001') === true, 'the kept pattern');
    await visitor.click('forget it', 'dialog');
    await visitor.says('“For the press” is forgotten.');
    await visitor.press(Key.ESCAPE);
  });
});

describe('the name of one file', () => {
  it('is written over where it stands, by F2 on the wall and in the Register', async () => {
    const before = files();
    await visitor.go(`/catalogue?q=${encodeURIComponent(Q)}`);
    await (await visitor.wall()).sendKeys(Key.ARROW_RIGHT);
    await visitor.find('.card .name');
    await (await visitor.wall()).sendKeys(Key.F2);
    await visitor.write('Name of the file', 'con.jpg');
    await visitor.press(Key.ENTER);
    await visitor.says('is reserved by some systems');
    await visitor.write('Name of the file', 'Called by hand.jpg');
    await visitor.press(Key.ENTER);
    await visitor.eventually(
      async () => files().some((path) => path.endsWith('Called by hand.jpg')),
      'the new name',
    );
    await visitor.says('is called “Called by hand.jpg” now.');
    expect(await visitor.axe()).toEqual([]);
    await undo();
    await backTo(before);
    await visitor.go(`/catalogue?q=${encodeURIComponent(Q)}&view=register`);
    await (await visitor.find('[role=grid]')).sendKeys(Key.ARROW_DOWN, Key.ARROW_RIGHT);
    await visitor.find('.card .name');
    await (await visitor.find('[role=grid]')).sendKeys(Key.F2);
    await visitor.find('[aria-label="Name of the file"]');
    await visitor.press(Key.ESCAPE);
    expect(files()).toEqual(before);
  });
});

/** Stand on a folder of the holdings that is seen, by its name; the keys go on from there. */
const stand = (name: string) =>
  visitor.eventually(
    () =>
      visitor.driver.executeScript(
        `const node = [...document.querySelectorAll('.holdings .node')].find((one) => one.innerText.startsWith(arguments[0]));
         node?.click(); document.querySelector('.holdings').focus(); return Boolean(node)`,
        name,
      ),
    name,
  );

describe('folders of a selection', () => {
  it('are shown as a tree, made, joined, and all is given back', async () => {
    const before = files();
    await chooseThree();
    await visitor.click('File', '.bar');
    await visitor.write('Filing pattern', 'Filed/{taken yyyy}/{city, else "nowhere"}');
    await visitor.says('nowhere');
    await visitor.says('new folders');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('file by file', 'dialog');
    await visitor.says('Studio shelf › Filed ›');
    await visitor.write('Filing pattern', '{counter 1}');
    await visitor.says('A counter counts names');
    await visitor.write('Filing pattern', 'Filed/{taken yyyy}');
    await visitor.says('The ledger keeps where they lay');
    await visitor.click('File 3 items', 'dialog');
    await visitor.eventually(
      async () => files().filter((path) => path.startsWith('Filed/20')).length >= 3,
      'filed items',
    );
    await visitor.says('Filing 3 items.');
    await undo();
    await backTo(before);
    await visitor.eventually(
      async () => !existsSync(join(SHELF, 'Filed')),
      'the folders it made to be gone',
    );
  });

  it('are counted where they lie soon after, by whoever looks at the wall', async () => {
    const before = files();
    await visitor.go('/catalogue?q=in+"Studio+shelf"%3B+kind+photo');
    await (await visitor.wall()).sendKeys(Key.chord(Key.CONTROL, 'a'));
    await visitor.says('selected');
    const bar = await (await visitor.find('.bar')).getText();
    const count = Number(/(\d+) selected/.exec(bar)![1]);
    await visitor.click('File', '.bar');
    await visitor.write('Filing pattern', 'Counted/{number, last 2}/{number}');
    await visitor.says('The ledger keeps where they lay');
    await visitor.click(`File ${count} items`, 'dialog');
    await visitor.says(`Counted ${count}`);
    await undo();
    await backTo(before);
  });

  it('get copies under new names while every file stays, from an accession too', async () => {
    const before = files();
    await chooseThree();
    await visitor.click('File', '.bar');
    await choose('Whether files are moved or copied', 'Files stay');
    await choose('Where it begins', 'Studio shelf');
    await visitor.write('Folder of that place', 'Press copies');
    await visitor.write('Filing pattern', '{taken yyyy}');
    await (await visitor.find('dialog .names input')).click();
    await visitor.write('Name pattern', 'press-{counter 1}');
    await visitor.says('The copies take');
    await visitor.click('file by file', 'dialog');
    await visitor.says('Studio shelf › Press copies ›');
    await visitor.says('press-3');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Copy 3 items', 'dialog');
    const copies = (): string[] => files().filter((path) => path.startsWith('Press copies/'));
    await visitor.eventually(async () => copies().length >= 3, 'three copies');
    expect(files().filter((path) => !path.startsWith('Press copies/'))).toEqual(before);
    await visitor.says('Copying 3 items.');
    await visitor.eventually(async () => {
      await visitor.go(`/catalogue?q=${encodeURIComponent('copies 2..; in "Studio shelf"')}`);
      await (await visitor.wall()).sendKeys(Key.ARROW_RIGHT);
      return /press-\d/.test(
        String(await (await visitor.find('aside')).getAttribute('textContent')),
      );
    }, 'the copy on the record card');
    await visitor.go('/ledger');
    await visitor.click('Undo', 'main');
    await backTo(before);
    await visitor.eventually(
      async () => !existsSync(join(SHELF, 'Press copies')),
      'the folders it made to be gone',
    );
    await visitor.go('/intake');
    await visitor.driver.executeScript(
      `[...document.querySelectorAll('a')].find((one) => /\\/intake\\/20/.test(one.href)).click()`,
    );
    await visitor.click('File them', 'main');
    await visitor.says('The ledger keeps where they lay');
    await visitor.press(Key.ESCAPE);
  });

  it('are made, named, taken along and removed by keys in the holdings', async () => {
    rmSync(join(SHELF, 'Made here'), { recursive: true, force: true });
    await visitor.go('/catalogue');
    await visitor.wall();
    await visitor.press('h');
    await visitor.find('.holdings .node');
    await stand('Studio shelf');
    await visitor.says('New folder');
    await visitor.press('n');
    await visitor.write('Name of the new folder', 'Made here');
    await visitor.press(Key.ENTER);
    await visitor.says('The folder “Made here” is made.');
    expect(existsSync(join(SHELF, 'Made here'))).toBe(true);
    await stand('Made here');
    await visitor.press(Key.F2);
    await visitor.write('New name of the folder', 'Called so');
    await visitor.press(Key.ENTER);
    await visitor.says('“Made here” is “Called so” now.');
    expect(existsSync(join(SHELF, 'Called so'))).toBe(true);
    await visitor.press('t');
    await visitor.says('1 folder taken along');
    await stand('Workshop');
    await visitor.press('v');
    await visitor.says('1 folder put into “Workshop”.');
    expect(existsSync(join(SHELF, 'Workshop/Called so'))).toBe(true);
    expect(await visitor.axe()).toEqual([]);
    await undo();
    await visitor.eventually(async () => existsSync(join(SHELF, 'Called so')), 'the folder back');
    await stand('Called so');
    await visitor.press(Key.DELETE);
    await visitor.says('The empty folder “Called so” is removed.');
    expect(existsSync(join(SHELF, 'Called so'))).toBe(false);
  });
});
