import { Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import { openBrowser, type Visitor } from '../support/browser';

/** Logging a clip by the keyboard alone, and two people at one clip. */
const ADDRESS = process.env['MINDFUL_TEST_ADDRESS']!;
let visitor: Visitor;
let other: Visitor;
let clip: { number: string; id: string };

beforeAll(async () => {
  [visitor, other] = [await openBrowser(ADDRESS), await openBrowser(ADDRESS)];
  await visitor.signIn(DEMO_ACCOUNTS[0]!.email, DEMO_PASSWORD);
  await other.signIn(DEMO_ACCOUNTS[1]!.email, DEMO_PASSWORD);
  clip = await visitor.driver.executeAsyncScript(
    `const done = arguments[0];
     fetch('/api/catalogue/tiles?q=' + encodeURIComponent('kind footage')).then((response) => response.json())
       .then((all) => done(all.find(({ name }) => name.startsWith('Launch'))))`,
  );
});
afterAll(async () => {
  await visitor?.quit();
  await other?.quit();
});

const read = <T>(script: string, who = visitor): Promise<T> =>
  who.driver.executeScript<T>(`return ${script}`);
const STAGE = `document.querySelector('.stage')`;
const frame = (): Promise<number> => read(`+${STAGE}.dataset.frame`);
const at = (wished: number): Promise<void> =>
  visitor.eventually(async () => (await frame()) === wished, `frame ${wished}`);
const press = async (...keys: string[]): Promise<void> => {
  for (const key of keys) await visitor.driver.actions().sendKeys(key).perform();
};
const told = (who = visitor): Promise<string[]> =>
  read(
    `[...document.querySelectorAll('[aria-label="Log"] li')].map((line) => line.innerText.replaceAll('\\n', ' | '))`,
    who,
  );
const tells = (count: number, ...parts: string[]): Promise<void> =>
  visitor.eventually(
    async () => {
      const lines = await told();
      return (
        lines.length === count && parts.every((part) => lines.some((line) => line.includes(part)))
      );
    },
    `${count} with ${parts.join(', ')}`,
  );
const summary = (): Promise<string> =>
  read(`document.querySelector('[data-part=summary]').textContent`);
const goTo = async (text: string): Promise<void> => press('g', text, Key.ENTER);

describe('the log of a clip', () => {
  it('opens from the clip by a key, ready at its first frame, and names frames by its timecode', async () => {
    await visitor.go(`/catalogue/${clip.number}`);
    await visitor.find('video');
    await press(Key.ENTER);
    await visitor.eventually(
      async () => (await read<string>('location.pathname')).endsWith('/log'),
      'the log',
    );
    await visitor.eventually(
      async () => (await read<number>(`+${STAGE}.dataset.frames`)) === 125,
      '125 frames',
    );
    await visitor.eventually(
      async () => (await read<number>(`document.querySelector('video').readyState`)) === 4,
      'it can play',
    );
    await press(...'..........');
    await at(10);
    expect(await read(`document.querySelector('output').textContent`)).toBe('10:42:00:10');
    await goTo('10:42:02:00');
    await at(50);
    await goTo('75');
    await at(75);
    await goTo('1.2 s');
    await at(30);
    await press(Key.ARROW_LEFT);
    await at(29);
  });

  it('keeps spans and markers as they are set, names, notes, rates and marks them, with undo and redo', async () => {
    await goTo('10');
    await at(10);
    await press('i');
    await goTo('34');
    await at(34);
    await press('o', Key.ENTER);
    await tells(1, '10:42:00:10 – 10:42:01:09 · 1 s');
    await press('t');
    await visitor.find('input[aria-label="Name"]');
    await press('Launch, wide', Key.ENTER);
    await tells(1, 'Launch, wide');
    await press('4');
    await visitor.eventually(
      async () =>
        (await read(`document.querySelector('li [role=img][aria-label="4 of 5 pips"]')`)) !== null,
      'its pips',
    );
    await goTo('60');
    await at(60);
    await press('m');
    await tells(2, '10:42:02:10');
    await press('w');
    await visitor.find('input[aria-label="Note"]');
    await press('ask for another take', Key.ENTER);
    await tells(2, 'ask for another take');
    expect(await summary()).toBe('1 span · 1 marker · 1 s of 5 s picked');
    await press(Key.DELETE);
    await tells(1);
    const withControl = (key: string): Promise<void> =>
      visitor.driver.actions().keyDown(Key.CONTROL).sendKeys(key).keyUp(Key.CONTROL).perform();
    await withControl('z');
    await tells(2, 'ask for another take', 'Launch, wide');
    await withControl('y');
    await tells(1);
    await withControl('z');
    await tells(2);
  });

  it('trims the chosen one to the frame one is at, loops it, and goes through at several speeds both ways', async () => {
    await press(Key.ESCAPE, Key.ARROW_DOWN);
    await at(10);
    await goTo('20');
    await at(20);
    await press('[');
    await tells(2, '10:42:00:20 – 10:42:01:09 · 15 f');
    await press('r', ' ');
    const seen: number[] = [];
    await visitor.eventually(async () => {
      seen.push(await frame());
      return seen.some((now, at) => at > 0 && now < seen[at - 1]!);
    }, 'it begins anew');
    expect(Math.min(...seen)).toBeGreaterThanOrEqual(20);
    expect(Math.max(...seen)).toBeLessThanOrEqual(36);
    await press('k', 'r');
    await goTo('100');
    await at(100);
    await press('j');
    await visitor.eventually(async () => (await frame()) < 90, 'going backward');
    await press('j');
    expect(await read(`${STAGE}.dataset.speed`)).toBe('-2');
    await press('k');
    const stood = await frame();
    await press('l', 'l');
    expect(await read(`document.querySelector('video').playbackRate`)).toBe(2);
    await visitor.eventually(async () => (await frame()) > stood, 'going forward');
    await press('k');
  });

  it('shows what somebody else keeps, and leads from a span to its frame', async () => {
    await other.go(`/catalogue/${clip.number}/log`);
    await other.find('[aria-label="Log"] li');
    expect((await told(other)).length).toBe(2);
    await goTo('110');
    await at(110);
    await press('m');
    await other.eventually(async () => (await told(other)).length === 3, 'a third');
    const number = await read<string>(`document.querySelector('li[data-number]').dataset.number`);
    await other.go(`/catalogue/${number}`);
    await other.eventually(
      async () => (await read<number>(`+${STAGE}.dataset.frame`, other)) === 20,
      'its frame',
    );
    expect(await read(`document.querySelector('li.selected').dataset.number`, other)).toBe(number);
  });

  it('zooms to single frames, has no fault of access, and complains of nothing', async () => {
    await press('+', '+', '+', '+', '+', '+', '+', '+');
    const wide = await read<number>(
      `(({ from, to }) => to - from)(document.querySelector('.timeline').dataset)`,
    );
    expect(wide).toBeLessThan(10);
    for (const who of [visitor, other]) {
      expect(await who.axe()).toEqual([]);
      expect(await who.complaints()).toEqual([]);
    }
  });

  it('logs a sound as well, in hundredths of a second', async () => {
    const sound = await visitor.driver.executeAsyncScript<string>(
      `const done = arguments[0];
       fetch('/api/catalogue/tiles?q=' + encodeURIComponent('kind sound')).then((response) => response.json())
         .then(([one]) => done(one.number))`,
    );
    await visitor.go(`/catalogue/${sound}/log`);
    await visitor.eventually(
      async () => (await read<number>(`document.querySelector('audio')?.readyState ?? 0`)) === 4,
      'it can play',
    );
    await press(' ');
    await visitor.eventually(async () => (await frame()) > 40, 'it is heard');
    await press('k');
    expect(
      await read(`(({ from, to }) => [+from, +to])(document.querySelector('.timeline').dataset)`),
    ).toEqual([0, await read<number>(`+${STAGE}.dataset.frames`)]);
    await goTo('1.5 s');
    await at(150);
    await press('m');
    await tells(1, '00:01 +50');
  });

  it('finds spans on the wall as items', async () => {
    await visitor.go(`/catalogue?q=${encodeURIComponent('kind span; rated 4..')}`);
    await visitor.wall();
    await visitor.says('Launch, wide');
    expect(await read(`document.querySelectorAll('[role=option]').length`)).toBe(1);
  });
});
