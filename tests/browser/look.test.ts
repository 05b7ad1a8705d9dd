import { Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import { openBrowser, type Visitor } from '../support/browser';

/** Looking closely, as the librarian does it: by keyboard, from picture to picture. */
const ADDRESS = process.env['MINDFUL_TEST_ADDRESS']!;
let visitor: Visitor;

beforeAll(async () => {
  visitor = await openBrowser(ADDRESS);
  await visitor.signIn(DEMO_ACCOUNTS[0]!.email, DEMO_PASSWORD);
});
afterAll(async () => {
  await visitor?.quit();
});

interface Found {
  id: string;
  number: string;
  name: string;
}
const find = (q: string): Promise<Found[]> =>
  visitor.driver.executeAsyncScript(
    `const done = arguments[0];
     fetch('/api/catalogue/tiles?offset=0&limit=20&q=' + encodeURIComponent(${JSON.stringify(q)}))
       .then((response) => response.json()).then(done)`,
  );
const open = async (q: string, at = 0, more = ''): Promise<Found> => {
  const found = (await find(q))[at]!;
  await visitor.go(`/catalogue/${found.number}?q=${encodeURIComponent(q)}${more}`);
  return found;
};
const told = async (css: string, name: string): Promise<string | null> =>
  (await visitor.find(css)).getAttribute(name);
const becomes = (css: string, name: string, value: string): Promise<void> =>
  visitor.eventually(async () => (await told(css, name)) === value, `${name} ${value}`);
const clean = async (): Promise<void> => {
  expect(await visitor.axe()).toEqual([]);
  expect(await visitor.complaints()).toEqual([]);
};
const percent = async (): Promise<number> =>
  parseInt(await (await visitor.find('.zoom .state')).getText(), 10);

describe('a picture', () => {
  it('is turned to the next at the same spot and size, with every pixel, its histogram, and the strip', async () => {
    await open('kind photo; order name');
    await becomes('.zoom', 'data-ready', 'true');
    await visitor.press(Key.ENTER);
    await visitor.eventually(async () => (await percent()) === 100, '100 %');
    const before = await visitor.driver.getCurrentUrl();
    await visitor.press(Key.ARROW_RIGHT);
    await visitor.eventually(
      async () => (await visitor.driver.getCurrentUrl()) !== before,
      'the next',
    );
    await becomes('.zoom', 'data-ready', 'true');
    await visitor.eventually(
      async () => Math.abs((await percent()) - 100) < 40,
      'the same size on the next',
    );
    await visitor.press(Key.ENTER);
    await visitor.press(Key.chord(Key.ALT, Key.ARROW_UP));
    await visitor.click('Histogram');
    await visitor.says('lost: black');
    await clean();
    await visitor.click('Strip');
    await visitor.eventually(
      async () => (await visitor.driver.findElements({ css: '.strip' })).length === 0,
      'the strip to be away',
    );
    await visitor.click('Strip');
  });

  it('is shown in a show that pauses and ends', async () => {
    await open('kind photo; order name');
    await visitor.click('Show');
    await becomes('.show', 'data-runs', 'on');
    await visitor.driver.executeScript('document.activeElement.blur()');
    await visitor.press(' ');
    await becomes('.show', 'data-runs', 'paused');
    await visitor.press(Key.ESCAPE);
    await visitor.eventually(
      async () => (await visitor.driver.findElements({ css: '.show' })).length === 0,
      'the show to end',
    );
  });
});

describe('relatives', () => {
  it('are held against each other by a line one moves, one after the other', async () => {
    const { number } = await open('has twin; order number');
    await visitor.find('.zoom');
    await visitor.press('|');
    await becomes('.wipe', 'data-part', '50');
    await visitor.says('twin of');
    const slider = await visitor.find('.wipe input');
    await slider.sendKeys(Key.ARROW_RIGHT, Key.ARROW_RIGHT);
    await becomes('.wipe', 'data-part', '51');
    expect(await visitor.driver.getCurrentUrl()).toContain('against=');
    await clean();
    await visitor.click('Alone');
    await becomes('.zoom', 'data-ready', 'true');
    const { pathname, search } = new URL(await visitor.driver.getCurrentUrl());
    expect(pathname).toBe(`/catalogue/${number}`);
    expect(search).not.toContain('against');
  });
});

describe('footage', () => {
  it('is stepped by frames and gone through by timecode', async () => {
    await open('kind footage; order name');
    await visitor.eventually(
      async () => Number(await told('.film', 'data-frames')) > 10,
      'its frames to be known',
    );
    for (const step of [1, 2, 3]) {
      await visitor.press('.');
      await becomes('.film', 'data-frame', String(step));
    }
    await visitor.press(',');
    await becomes('.film', 'data-frame', '2');
    const code = await (await visitor.find('[data-part=code]')).getText();
    const parts = /^(\d\d:\d\d:\d\d[:;])(\d\d)$/.exec(code);
    // Clips without a timecode are gone through by the number of the frame.
    if (parts)
      await visitor.write(
        'Go to timecode',
        parts[1]! + String(Number(parts[2]) + 7).padStart(2, '0'),
      );
    else await visitor.write('Go to frame', '9');
    await visitor.press(Key.ENTER);
    await becomes('.film', 'data-frame', '9');
    await clean();
  });

  it('has the frame one chooses for its picture, and its usual one again', async () => {
    const q = 'kind footage; order name';
    const { id } = await open(q);
    const picture = async (): Promise<string> =>
      ((await find(q)) as (Found & { picture: string })[]).find((one) => one.id === id)!.picture;
    const usual = await picture();
    await visitor.eventually(
      async () => Number(await told('.film', 'data-frames')) > 10,
      'its frames to be known',
    );
    await visitor.driver.executeScript('document.activeElement.blur()');
    await visitor.press('.');
    await becomes('.film', 'data-frame', '1');
    await visitor.click('Use this frame');
    await visitor.eventually(async () => (await picture()).startsWith(`${usual}-t`), 'its key');
    await visitor.click('Usual frame');
    await visitor.eventually(async () => (await picture()) === usual, 'its usual key');
  });
});

describe('drawings and fonts', () => {
  it('are drawn anew at every size, and in words of one’s own', async () => {
    await open('kind vector; format svg');
    const wide = async (): Promise<number> =>
      (await (await visitor.find('.drawing img')).getRect()).width;
    await visitor.eventually(async () => (await wide()) > 100, 'the drawing');
    const before = await wide();
    await visitor.press('+');
    await visitor.eventually(async () => (await wide()) > before * 1.3, 'it to grow');
    await clean();
    await open('kind font');
    await visitor.write('Words of your own', 'Harbour');
    await visitor.eventually(
      async () => ((await told('.specimen img', 'src')) ?? '').includes('text=Harbour'),
      'its own words',
    );
    await clean();
  });
});

describe('a cull', () => {
  it('gives each frame a verdict by one key, and goes on by itself', async () => {
    const q = 'kind photo; order number';
    const first = (await find(q))[0]!;
    await open(q, 0, '&pass=1');
    await visitor.says('to go');
    const rejected = async (): Promise<number> =>
      Number(/(\d+) rejected/.exec(await (await visitor.find('.bars .bar')).getText())?.[1]);
    const atFirst = await rejected();
    const number = async (): Promise<string> =>
      decodeURIComponent(new URL(await visitor.driver.getCurrentUrl()).pathname.split('/').at(-1)!);
    for (const key of [Key.ARROW_DOWN, Key.ARROW_UP, Key.ARROW_DOWN]) {
      const before = await number();
      await visitor.press(key);
      await visitor.eventually(async () => (await number()) !== before, 'the next frame');
    }
    // Some may have been rejected before.
    await visitor.eventually(async () => (await rejected()) >= Math.max(2, atFirst), 'rejected');
    const rated: { rating: number }[] = (await find(q)) as never;
    expect(rated.slice(0, 3).map(({ rating }) => Math.sign(rating))).toEqual([-1, 1, -1]);
    expect((await find(q))[0]!.id).toBe(first.id);
    await clean();
    await visitor.click('Second pass');
    await visitor.eventually(async () => {
      const { searchParams: wish } = new URL(await visitor.driver.getCurrentUrl());
      return wish.get('q')!.includes('rated 1..') && wish.has('pass');
    }, 'a pass over what is kept');
    await visitor.says('0 to go');
  });

  it('ends with what was rejected in the wastebasket, and all of it back', async () => {
    const q = 'kind photo; order number';
    const before = (await find(q)).map(({ id }) => id);
    await open(q, 0, '&pass=1');
    await visitor.click('Discard rejected');
    await visitor.says('leave the catalogue');
    await visitor.says('no other copy');
    await clean();
    await visitor.click('Discard ', 'dialog');
    await visitor.eventually(
      async () => (await find(q)).every(({ id }) => id !== before[0]),
      'the rejected to be gone',
    );
    await visitor.go('/ledger/wastebasket');
    await visitor.says('Remove for good');
    await clean();
    await visitor.click('Remove for good');
    await visitor.says('Nothing gives them back');
    await visitor.click('Close');
    await visitor.click('Give back');
    await visitor.says('Nothing was let go');
    expect((await find(q)).map(({ id }) => id)).toEqual(before);
  });

  it('unfolds one burst in place, and folds it again', async () => {
    const ids = (await find('kind photo; order number')).slice(4, 7).map(({ id }) => id);
    const fold = (act: 'fold' | 'unfold'): Promise<number> =>
      visitor.driver.executeAsyncScript(
        `const done = arguments[0];
         fetch('/api/bursts', { method: 'POST', headers: { 'content-type': 'application/json' },
           body: ${JSON.stringify(JSON.stringify({ ids, act }))} }).then(({ status }) => done(status))`,
      );
    expect(await fold('fold')).toBe(200);
    await visitor.go('/catalogue?q=kind+photo%3B+has+lead%3B+order+number');
    await visitor.eventually(
      async () => (await visitor.driver.findElements({ css: '.badge.folds' })).length === 1,
      'one burst',
    );
    const total = (): Promise<number> =>
      visitor.driver.executeScript(
        `return Number(document.querySelector('[role=option]')?.getAttribute('aria-setsize') ?? 0);`,
      );
    const folded = await total();
    await visitor.driver.executeScript(`document.querySelector('.badge.folds').click()`);
    await visitor.eventually(async () => (await total()) === folded + 2, 'two more');
    await clean();
    await visitor.driver.executeScript(`document.querySelector('.badge.folds').click()`);
    await visitor.eventually(async () => (await total()) === folded, 'one again');
    expect(await fold('unfold')).toBe(200);
  });

  it('hangs bursts as one, and apart again', async () => {
    await visitor.go('/catalogue?q=kind+photo');
    await visitor.click('fold bursts');
    await visitor.says('one of each burst');
    await visitor.click('unfold bursts');
    await visitor.eventually(
      async () => !(await visitor.driver.getCurrentUrl()).includes('lead'),
      'all of them',
    );
  });
});

describe('side by side', () => {
  it('frames move together, are measured, kept, rejected, and the next comes in', async () => {
    const found = await find('kind photo; order number');
    const numbers = found.slice(0, 3).map(({ number }) => number);
    await visitor.go(
      `/side?items=${numbers.join(',')}&q=${encodeURIComponent('kind photo; order number')}`,
    );
    await visitor.says('sharp');
    expect(await visitor.driver.findElements({ css: '.panes section' })).toHaveLength(3);
    await visitor.press(Key.ENTER);
    await visitor.eventually(async () => {
      const shown = await visitor.driver.findElements({ css: '.zoom .state' });
      const texts = await Promise.all(shown.map((one) => one.getText()));
      return (
        texts.length === 3 && texts.every((text) => /^\d+ %$/.test(text)) && texts[0] === '100 %'
      );
    }, 'all as near');
    await clean();
    const before = await visitor.driver.getCurrentUrl();
    await visitor.press(Key.ARROW_DOWN);
    await visitor.eventually(
      async () => (await visitor.driver.getCurrentUrl()) !== before,
      'another',
    );
    expect(await visitor.driver.findElements({ css: '.panes section' })).toHaveLength(3);
  });
});
