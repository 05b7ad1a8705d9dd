import { execFileSync } from 'node:child_process';
import { Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import { openBrowser, type Visitor } from '../support/browser';

/** Finding, as the librarian does it: the sentence and its sheets, holdings, the four views, figures, programs. */
const ADDRESS = process.env['MINDFUL_TEST_ADDRESS']!;
let visitor: Visitor;

beforeAll(async () => {
  visitor = await openBrowser(ADDRESS);
  await visitor.signIn(DEMO_ACCOUNTS[0]!.email, DEMO_PASSWORD);
});
afterAll(async () => {
  await visitor?.quit();
});

const total = async (): Promise<number> =>
  Number((await (await visitor.find('.sentence strong')).getText()).replaceAll(',', ''));
const counts = (changed: () => Promise<boolean>, what: string): Promise<void> =>
  visitor.eventually(changed, what);
const query = async (): Promise<string> =>
  new URL(await visitor.driver.getCurrentUrl()).searchParams.get('q') ?? '';
const clean = async (): Promise<void> => {
  expect(await visitor.axe()).toEqual([]);
  expect(await visitor.complaints()).toEqual([]);
};

describe('the sentence', () => {
  it('asks any field by its sheet, with counts that hold, and turns a condition round', async () => {
    await visitor.go('/catalogue');
    const all = await total();
    await visitor.click('and…');
    await visitor.write('Search among the fields', 'camer');
    await visitor.click('Camera …', '.sheet');
    const row = await visitor.named('Marlow Heron 5', '.sheet');
    const promised = Number((await row.getText()).split(/\s/).at(-1)!.replaceAll(',', ''));
    await row.click();
    await counts(async () => (await total()) === promised, 'as many as the sheet promised');
    await visitor.click('taken with');
    await visitor.click('anything but this', '.sheet');
    await visitor.says('not taken with');
    await counts(async () => (await total()) === all - promised, 'all the others');
    await clean();
  });

  it('understands plain English, and says what it does not', async () => {
    await visitor.go('/catalogue');
    await visitor.press('/');
    await visitor.find('[aria-label="Type into the sentence"]');
    await visitor.press('photos without credit, blurry');
    await visitor.says('not understood: blurry');
    await visitor.press(Key.ENTER);
    await visitor.says('not yet credited');
    expect(await query()).toBe('kind photo; lacking creditLine');
    await visitor.driver.navigate().back();
    await counts(async () => (await query()) === '', 'back where one was');
  });

  it('refuses what cannot be asked, clearly', async () => {
    for (const [text, words] of [
      ['colour red', 'begins no clause'],
      [Array.from({ length: 200 }, () => 'rated 3').join('; '), 'more than 100 conditions'],
      ['term "nobody knows this"', 'There is no term “nobody knows this”'],
    ] as const) {
      await visitor.go(`/catalogue?q=${encodeURIComponent(text)}`);
      await visitor.says(words);
    }
    await visitor.complaints();
  });

  it('is kept as a standing collection that fills itself', async () => {
    await visitor.go(`/catalogue?q=${encodeURIComponent('rated 4..; kind photo')}`);
    const found = await total();
    await visitor.click('keep');
    await visitor.write('Its name', 'Best of the week');
    await visitor.click('Keep it', 'dialog');
    await visitor.says('is kept');
    await visitor.go('/collections');
    await visitor.click('Best of the week');
    await visitor.says('It fills itself: photos in all holdings, four pips or more');
    await visitor.says(`${found} items`);
    await clean();
  });
});

describe('holdings', () => {
  it('are walked by the shelf line and by keys, pinned and found by name', async () => {
    await visitor.go('/catalogue');
    await visitor.click('Studio shelf', '.shelf');
    await visitor.click('Wind Week', '.shelf');
    await visitor.says('in Wind Week, all levels');
    const inside = await total();
    expect(await (await visitor.find('.shelf [aria-current=location]')).getText()).toContain(
      `Wind Week ${inside}`,
    );
    await visitor.click('all levels', '.shelf');
    await visitor.says('Wind Week, this level');
    await visitor.driver.navigate().back();
    await visitor.says('Wind Week, all levels');
    await visitor.press('h');
    const panel = await visitor.find('.holdings');
    await visitor.find('.holdings .node.at');
    await clean();
    await panel.sendKeys(Key.ARROW_RIGHT);
    await panel.sendKeys('p');
    await visitor.find('.holdings footer .card');
    await panel.sendKeys(Key.ENTER);
    await counts(async () => (await total()) < inside, 'a folder below');
    await visitor.press('h');
    await visitor.find('.holdings footer .card');
    await visitor.press(Key.ESCAPE);
  });
});

describe('the views', () => {
  it('show when, and restrict to a time', async () => {
    await visitor.go('/catalogue?view=timeline');
    const all = await total();
    const chart = await visitor.find('.timeline [role=slider]');
    await visitor.find('.timeline .bar');
    await chart.sendKeys(Key.END, Key.ENTER);
    await counts(async () => (await query()).startsWith('taken '), 'a time in the sentence');
    expect(await total()).toBeLessThan(all);
    await clean();
  });

  it('show where, split marks, and restrict to a box', async () => {
    await visitor.go('/catalogue?view=atlas');
    const all = await total();
    await visitor.find('.atlas .mark');
    await clean();
    await visitor.click('draw a box');
    const map = await visitor.find('.atlas .map');
    const { width, height } = await map.getRect();
    await visitor.driver
      .actions()
      .move({ origin: map, x: -Math.round(width / 2) + 20, y: -Math.round(height / 2) + 50 })
      .press()
      .move({ origin: map, x: Math.round(width / 2) - 20, y: Math.round(height / 2) - 20 })
      .release()
      .perform();
    await counts(async () => (await query()).startsWith('position box '), 'a box in the sentence');
    expect(await total()).toBeGreaterThan(0);
    expect(await total()).toBeLessThan(all);
    await visitor.click('everywhere');
    await counts(async () => (await total()) === all, 'everything again');
  });

  it('part the wall by any field, and choose everything without holding it', async () => {
    await visitor.go('/catalogue?q=group+camera%3B+order+name');
    await visitor.says('Marlow Dunlin 2');
    const list = await visitor.find('[role=listbox]');
    await list.sendKeys(Key.ARROW_RIGHT, Key.chord(Key.CONTROL, 'a'));
    await visitor.says(`${await total()} selected`);
    await list.sendKeys(Key.ESCAPE);
  });

  it('count the archive, each figure opening what it counts', async () => {
    await visitor.go('/census');
    await visitor.says('What is missing');
    await clean();
    const gap = await visitor.named('', '.gaps');
    const promised = Number((await gap.getText()).split(/\s/)[0]!.replaceAll(',', ''));
    await gap.click();
    await counts(
      async () => (await visitor.driver.getCurrentUrl()).includes('/catalogue'),
      'the catalogue',
    );
    expect(await total()).toBe(promised);
  });
});

describe('the index', () => {
  it('may be killed: pages are answered all the same, and it comes back', async () => {
    const pids = execFileSync('pgrep', ['-f', `main.js index`])
      .toString()
      .trim()
      .split('\n')
      .map(Number);
    const own = pids.filter((pid) => {
      const environment = execFileSync('cat', [`/proc/${pid}/environ`]).toString();
      return environment.includes(`MINDFUL_HOME=${process.env['MINDFUL_TEST_HOME']}`);
    });
    expect(own).toHaveLength(1);
    await visitor.go('/catalogue?q=kind+photo');
    const before = await total();
    process.kill(own[0]!, 'SIGKILL');
    await visitor.driver.navigate().refresh();
    expect(await total()).toBe(before);
    await visitor.eventually(async () => {
      await visitor.driver.navigate().refresh();
      return !(await (await visitor.find('body')).getText()).includes('being caught up');
    }, 'the index to answer again');
    expect(await total()).toBe(before);
    await visitor.complaints();
  });
});
