import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { parse } from 'csv-parse/sync';
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

  it('forgives mistakes in typing, and says how they were read', async () => {
    await visitor.go('/catalogue');
    await visitor.press('/');
    await visitor.find('[aria-label="Type into the sentence"]');
    await visitor.press('photos from Septmber 2026 withot credit');
    await visitor.says('“Septmber” read as September');
    await visitor.says('“withot” read as without');
    await visitor.press(Key.ENTER);
    await visitor.says('not yet credited');
    expect(await query()).toBe('kind photo; taken 2026-09; lacking creditLine');
  });

  it('finds by colour, each colour counted', async () => {
    await visitor.go('/catalogue');
    await visitor.click('and…');
    await visitor.write('Search among the fields', 'colours');
    await visitor.click('Colours …', '.sheet');
    await visitor.find('.sheet .swatch');
    const row = await visitor.named('grey', '.sheet');
    const promised = Number((await row.getText()).split(/\s/).at(-1)!.replaceAll(',', ''));
    expect(promised).toBeGreaterThan(0);
    await clean();
    await row.click();
    await visitor.says('in colours like grey');
    await counts(async () => (await total()) === promised, 'as many as the sheet promised');
  });

  it('is gone back and forth through, ten steps each way', async () => {
    const steps = ['kind photo', 'rated 1..', 'rated 2..', 'rated 3..', 'lacking creditLine'];
    const asked: string[] = [];
    await visitor.go('/catalogue');
    for (const step of [...steps, ...steps.map((one) => `not kind sound; ${one}`)]) {
      await visitor.driver.executeScript(
        'const a = document.createElement("a"); a.href = "/catalogue?q=" + encodeURIComponent(arguments[0]); document.body.append(a); a.click(); a.remove();',
        step,
      );
      await counts(async () => (await query()) === step, step);
      await visitor.find('.sentence strong');
      asked.push(`${await query()} ${await (await visitor.find('.sentence')).getText()}`);
    }
    const now = async (): Promise<string> =>
      `${await query()} ${await (await visitor.find('.sentence')).getText()}`;
    for (const wished of asked.slice(0, -1).reverse()) {
      await visitor.driver.navigate().back();
      await counts(async () => (await now()) === wished, `back at ${wished}`);
    }
    for (const wished of asked.slice(1)) {
      await visitor.driver.navigate().forward();
      await counts(async () => (await now()) === wished, `forth at ${wished}`);
    }
    await clean();
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
    const list = await visitor.wall();
    await list.sendKeys(Key.ARROW_RIGHT, Key.chord(Key.CONTROL, 'a'));
    await visitor.says(`${await total()} selected`);
    await list.sendKeys(Key.ESCAPE);
  });

  it('choose the range that was drawn last, whichever answer comes last', async () => {
    await visitor.go('/catalogue?q=kind+photo%3B+order+number');
    const list = await visitor.wall();
    await visitor.late('/api/catalogue/ids');
    const wider = Key.chord(Key.SHIFT, Key.ARROW_RIGHT);
    await list.sendKeys(Key.ARROW_RIGHT, wider, wider);
    await visitor.says('3 selected');
    await visitor.find('body[data-late=came]');
    expect(await (await visitor.find('.bar')).getText()).toContain('3 selected');
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

describe('the register', () => {
  const grid = () => visitor.find('[role=grid]');
  const heads = async (): Promise<string[]> =>
    visitor.driver.executeScript<string[]>(
      'return [...document.querySelectorAll("[role=columnheader] .name")].map((e) => e.innerText.replace(/ [↑↓]$/, ""))',
    );
  const cell = (row: number, column: number): Promise<string> =>
    visitor.driver.executeScript<string>(
      'return document.getElementById(arguments[0])?.innerText ?? ""',
      `cell-${row}-${column}`,
    );

  it('shows the columns one chooses, in one’s order and width, the next time too', async () => {
    await visitor.go('/catalogue?view=register&q=kind+photo%3B+order+name');
    await visitor.click('Columns');
    await visitor.write('Search among the columns', 'camera');
    await visitor.click('Camera', '.sheet');
    await clean();
    await visitor.press(Key.ESCAPE);
    await counts(async () => (await heads()).at(-1) === 'Camera', 'the column');
    await (await visitor.named('Camera', '.top')).sendKeys(Key.chord(Key.ALT, Key.ARROW_LEFT));
    await counts(async () => (await heads()).at(-2) === 'Camera', 'one place to the left');
    await visitor.driver.executeScript(
      'document.querySelector("[aria-label=\'Width of Name\']").focus()',
    );
    // Choices are remembered a moment later.
    await visitor.answered('/api/remembered/', () =>
      visitor.press(Key.ARROW_RIGHT, Key.ARROW_RIGHT),
    );
    const width = (): Promise<string> =>
      visitor.driver.executeScript<string>(
        'return document.querySelector("[aria-label=\'Width of Name\']").getAttribute("aria-valuenow")',
      );
    expect(await width()).toBe('170');
    await visitor.again();
    await counts(async () => (await heads()).at(-2) === 'Camera', 'the column again');
    expect(await width()).toBe('170');
    await counts(async () => /Heron|Tern|Dunlin|Pebble/.test(await cell(0, 7)), 'its values');
  });

  it('is written into cell by cell, by keys alone', async () => {
    await visitor.go('/catalogue?view=register&q=kind+photo%3B+order+number');
    await visitor.find('#cell-0-0');
    await counts(async () => (await cell(1, 0)) !== '', 'the rows');
    await (await grid()).sendKeys(Key.ARROW_DOWN, Key.ARROW_RIGHT, Key.ARROW_RIGHT, Key.F2);
    await (
      await visitor.find('.cell input[aria-label=Title]')
    ).sendKeys(Key.chord(Key.CONTROL, 'a'), 'Written in place', Key.ENTER);
    await counts(async () => (await cell(0, 2)) === 'Written in place', 'the title');
    // Enter goes on to the next row; Escape leaves it as it was.
    const before = await cell(1, 2);
    await counts(
      async () => (await (await grid()).getAttribute('aria-activedescendant')) === 'cell-1-2',
      'the next row',
    );
    await (await grid()).sendKeys(Key.F2);
    await (await visitor.find('.cell input[aria-label=Title]')).sendKeys('not this', Key.ESCAPE);
    await counts(async () => (await cell(1, 2)) === before, 'as it was');
    await clean();
  });

  it('is copied out as CSV', async () => {
    await visitor.go('/catalogue?view=register&q=kind+photo%3B+order+number');
    await counts(async () => (await cell(1, 0)) !== '', 'the rows');
    await (await grid()).sendKeys(Key.ARROW_DOWN, Key.chord(Key.SHIFT, Key.ARROW_DOWN));
    await visitor.says('2 selected');
    await visitor.click('Columns');
    await visitor.click('save it as a CSV file', '.sheet');
    const path = join(visitor.downloads, 'register.csv');
    await counts(() => Promise.resolve(existsSync(path)), 'the file');
    const rows = parse(readFileSync(path, 'utf8'), { bom: true, columns: true }) as Record<
      string,
      string
    >[];
    expect(rows.map((row) => row['Catalogue number'])).toEqual([
      await cell(0, 0),
      await cell(1, 0),
    ]);
    expect(rows[0]!['Title']).toBe('Written in place');
  });
});

describe('empty folders', () => {
  it('are found once another program emptied them, removed, and given back', async () => {
    const shelf = join(process.env['MINDFUL_TEST_HOME']!, 'holdings/Studio shelf');
    mkdirSync(join(shelf, 'Patterns'));
    for (const name of readdirSync(join(shelf, 'Sail patterns')))
      renameSync(join(shelf, 'Sail patterns', name), join(shelf, 'Patterns', name));
    const empty =
      'return [...document.querySelectorAll(".holdings header button")].find((e) => /empty$/.test(e.innerText))';
    await visitor.eventually(async () => {
      await visitor.go('/catalogue');
      await visitor.wall();
      await visitor.press('h');
      await visitor.find('.holdings .node');
      await visitor.driver.sleep(500);
      return (await visitor.driver.executeScript(empty)) !== null;
    }, 'the move to be followed');
    await visitor.driver.executeScript(`${empty.replace('return ', '(')}).click()`);
    await visitor.says('1 folder with nothing in it');
    await clean();
    await (await visitor.find('.holdings .found .node')).click();
    await visitor.click('Remove it', '.holdings');
    await visitor.says('is removed');
    expect(existsSync(join(shelf, 'Sail patterns'))).toBe(false);
    await visitor.click('Undo');
    await counts(
      () => Promise.resolve(existsSync(join(shelf, 'Sail patterns'))),
      'the folder again',
    );
    await visitor.go('/ledger');
    await visitor.says('Undid: Removed the empty folder “Sail patterns”');
    await clean();
  });
});

describe('programs', () => {
  it('come with a token that reads, until it is revoked', async () => {
    await visitor.go('/account');
    await visitor.write('What uses it', 'the shop');
    await visitor.click('Make a token');
    const token = (await (
      await visitor.find('[aria-label="The new token"]')
    ).getAttribute('value'))!;
    const ask = (method = 'GET', body?: string) =>
      fetch(
        `${ADDRESS}/api/v1/items${method === 'GET' ? '?limit=2&fields=name' : '/2026.001.0001'}`,
        {
          method,
          headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
          ...(body ? { body } : {}),
        },
      );
    const answer = await ask();
    expect(answer.status).toBe(200);
    expect((await answer.json()) as object).toMatchObject({ items: [{}, {}] });
    expect((await ask('PATCH', '{"title":"no"}')).status).toBe(403);
    // It opens no other door.
    const other = await fetch(`${ADDRESS}/api/catalogue/ids?q=`, {
      headers: { authorization: `Bearer ${token}` },
    });
    expect([401, 403]).toContain(other.status);
    await visitor.go('/account');
    await visitor.says('the shop');
    await clean();
    await visitor.click('Revoke it');
    await counts(async () => (await ask()).status === 401, 'the token to be worth nothing');
  });
});

describe('a link', () => {
  it('shows another role the same, without what it may not do', async () => {
    await visitor.go('/catalogue?q=rated+3..&view=register');
    const wished = await total();
    const mate = await openBrowser(ADDRESS);
    try {
      await mate.go('/catalogue?q=rated+3..&view=register');
      await mate.says('Sign in');
      await mate.fill('input[name=email]', DEMO_ACCOUNTS[2]!.email);
      await mate.fill('input[name=password]', DEMO_PASSWORD);
      await mate.click('Sign in');
      await mate.says('three pips or more');
      expect(Number(await (await mate.find('.sentence strong')).getText())).toBe(wished);
      await (
        await mate.find('[role=grid]')
      ).sendKeys(Key.ARROW_DOWN, Key.ARROW_RIGHT, Key.ARROW_RIGHT, Key.F2);
      await mate.driver.sleep(300);
      expect(
        await mate.driver.executeScript('return document.querySelector(".cell input")'),
      ).toBeNull();
      expect(await mate.axe()).toEqual([]);
    } finally {
      await mate.quit();
    }
  });
});

describe('the database', () => {
  it('may be restarted under it: windows go on, and the index follows again', async () => {
    const folder = join(process.env['MINDFUL_TEST_HOME']!, 'postgres');
    const owner = process.getuid?.() === 0 ? ['runuser', '-u', 'postgres', '--'] : [];
    const [program, ...rest] = [
      ...owner,
      '/usr/lib/postgresql/15/bin/pg_ctl',
      // As a machine would that fails: it asks nobody whether they are done.
      ...['restart', '-w', '-s', '-m', 'immediate', '-D', folder, '-l', join(folder, 'server.log')],
    ] as [string, ...string[]];
    await visitor.go('/catalogue?q=kind+photo');
    const before = await total();
    execFileSync(program, rest, { stdio: 'ignore', timeout: 60_000 });
    await visitor.eventually(async () => {
      await visitor.again();
      const [text] = await visitor.driver.executeScript<[string]>(
        'return [document.querySelector(".catalogue")?.innerText ?? "being caught up"]',
      );
      return !text.includes('being caught up');
    }, 'pages and the index to answer again');
    expect(await total()).toBe(before);
    await (await visitor.wall()).sendKeys(Key.ARROW_RIGHT, '2');
    await visitor.eventually(async () => {
      await visitor.again();
      const mine = await fetch(`${ADDRESS}/sign-in`);
      return mine.ok && (await total()) === before;
    }, 'a change after it');
    await visitor.complaints();
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
    await visitor.again();
    expect(await total()).toBe(before);
    await visitor.eventually(async () => {
      await visitor.again();
      return !(await (await visitor.find('body')).getText()).includes('being caught up');
    }, 'the index to answer again');
    expect(await total()).toBe(before);
    await visitor.complaints();
  });
});
