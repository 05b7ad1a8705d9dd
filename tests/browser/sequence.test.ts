import { Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import { openBrowser, type Visitor } from '../support/browser';

/** A rough sequence put together by keys, played through, and seen by somebody else. */
const ADDRESS = process.env['MINDFUL_TEST_ADDRESS']!;
let visitor: Visitor;
let other: Visitor;

beforeAll(async () => {
  [visitor, other] = [await openBrowser(ADDRESS), await openBrowser(ADDRESS)];
  await visitor.signIn(DEMO_ACCOUNTS[0]!.email, DEMO_PASSWORD);
  await other.signIn(DEMO_ACCOUNTS[1]!.email, DEMO_PASSWORD);
});
afterAll(async () => {
  await visitor?.quit();
  await other?.quit();
});

const read = <T>(script: string, who = visitor): Promise<T> =>
  who.driver.executeScript<T>(`return ${script}`);
const press = async (...keys: string[]): Promise<void> => {
  for (const key of keys) await visitor.driver.actions().sendKeys(key).perform();
};
const chord = (modifier: string, key: string): Promise<void> =>
  visitor.driver.actions().keyDown(modifier).sendKeys(key).keyUp(modifier).perform();
const STAGE = `document.querySelector('.stage')`;
const frames = (): Promise<number> => read(`+${STAGE}.dataset.frames`);
const pieces = (who = visitor): Promise<string[]> =>
  read(
    `[...document.querySelectorAll('.pieces [data-piece] strong')].map((one) => one.textContent)`,
    who,
  );
const count = (wished: number, who = visitor): Promise<void> =>
  visitor.eventually(async () => (await pieces(who)).length === wished, `${wished} pieces`);

describe('a rough sequence', () => {
  it('is made, and takes in what a sentence beside it finds, by keys', async () => {
    await visitor.go('/collections');
    await visitor.fill('[aria-label="Name of a new sequence"]', 'Harbour');
    await press(Key.ENTER);
    await visitor.find('.sequence');
    const address = new URL(await visitor.driver.getCurrentUrl()).pathname;
    await visitor.go(`${address}?q=${encodeURIComponent('kind footage; order name')}`);
    await visitor.find('aside li');
    await other.go(address);
    await other.find('.sequence');
    await press(Key.ARROW_DOWN, Key.ENTER);
    await count(1);
    await press(Key.ARROW_DOWN, Key.ENTER);
    await count(2);
    // Another window follows without being asked.
    await count(2, other);
    expect(await read<number>(`document.querySelectorAll('aside em').length`)).toBe(2);
  });

  it('is trimmed to the frame that is seen, ordered, parted by a gap, and taken back', async () => {
    const [first, second] = await pieces();
    const whole = await frames();
    await press(Key.HOME);
    for (let at = 0; at < 9; at += 1) await press('.');
    await visitor.eventually(
      async () => (await read<string>(`${STAGE}.dataset.frame`)) === '9',
      'the tenth frame',
    );
    await press(']');
    await visitor.eventually(async () => (await frames()) < whole, 'a shorter one');
    const trimmed = await frames();
    await chord(Key.SHIFT, Key.ARROW_RIGHT);
    await visitor.eventually(async () => (await frames()) === trimmed + 1, 'a frame more');
    await chord(Key.ALT, Key.ARROW_RIGHT);
    await visitor.eventually(async () => (await pieces())[0] === second, 'another order');
    await press('g');
    await count(3);
    await chord(Key.CONTROL, 'z');
    await count(2);
    await chord(Key.CONTROL, 'z');
    await visitor.eventually(async () => (await pieces())[0] === first, 'the former order');
    expect(await frames()).toBe(trimmed + 1);
    await press('g');
    await count(3);
  });

  it('plays through, every piece in its turn, a picture in sight but for the gap', async () => {
    await press(Key.HOME);
    await visitor.driver.executeScript(`
      const stage = ${STAGE};
      window.turns = [];
      window.blank = 0;
      const look = () => {
        const { at } = stage.dataset;
        if (window.turns.at(-1) !== at) window.turns.push(at);
        const seen = document.querySelector('.stage video.seen');
        if (at !== window.gap && (!seen || seen.readyState < 2)) window.blank += 1;
        if (window.looks !== false) requestAnimationFrame(look);
      };
      window.gap = String([...document.querySelectorAll('.pieces [data-piece]')]
        .findIndex((one) => one.dataset.piece === 'gap'));
      look();`);
    await press(' ');
    const last = (await frames()) - 1;
    await visitor.eventually(
      async () => (await read<string>(`${STAGE}.dataset.frame`)) === String(last),
      'the last frame',
    );
    const [turns, blank] = await read<[string[], number]>(
      `(window.looks = false, [window.turns, window.blank])`,
    );
    expect(turns).toEqual(['0', '1', '2']);
    // The screen is drawn sixty times a second: a picture or two while one player hands over to the other.
    expect(blank).toBeLessThanOrEqual(6);
  });
});
