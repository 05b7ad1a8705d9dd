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
    await tells(1, '10:42:00:10 – 10:42:01:09 | 1 s');
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
    await tells(2, '10:42:00:20 – 10:42:01:09 | 15 f');
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

  it('describes several at once, counts takes up, joins, splits and gives back', async () => {
    const chord = (modifier: string, key: string): Promise<void> =>
      visitor.driver.actions().keyDown(modifier).sendKeys(key).keyUp(modifier).perform();
    await visitor.go(`/catalogue/${clip.number}/log`);
    await tells(3);
    await visitor.eventually(
      async () => (await read<number>(`+${STAGE}.dataset.frames`)) === 125,
      'its frames',
    );
    for (const [from, to] of [
      ['40', '44'],
      ['46', '49'],
    ] as const) {
      await goTo(from);
      await at(Number(from));
      await press('i');
      await goTo(to);
      await at(Number(to));
      await press('o', Key.ENTER);
      await visitor.eventually(
        async () => (await told()).some((line) => line.includes(`10:42:01:${Number(to) - 25}`)),
        `a span to ${to}`,
      );
    }
    await tells(5);
    // The later of the two is chosen; the one before it as well.
    await chord(Key.SHIFT, Key.ARROW_UP);
    await press('s');
    await visitor.find('input[aria-label="Scene of 2 spans"]');
    await press('12', Key.ENTER);
    await visitor.eventually(
      async () => (await told()).filter((line) => line.includes('scene 12')).length === 2,
      'both of scene 12',
    );
    await press('e');
    await visitor.find('input[aria-label="Take of 2 spans, counted up"]');
    await press('7', Key.ENTER);
    await tells(5, 'scene 12 · take 7', 'scene 12 · take 8');
    await press('u');
    await tells(4, '10:42:01:15 – 10:42:01:24 | 10 f');
    await goTo('45');
    await at(45);
    await press('x');
    await tells(5, '10:42:01:15 – 10:42:01:19 | 5 f', '10:42:01:20 – 10:42:01:24 | 5 f');
    await chord(Key.CONTROL, 'z');
    await tells(4);
    await chord(Key.CONTROL, 'z');
    await tells(5, 'take 7', 'take 8');
    await chord(Key.CONTROL, 'a');
    await visitor.eventually(
      async () => (await read<number>(`document.querySelectorAll('li.chosen').length`)) === 5,
      'all of them',
    );
    await press(Key.ESCAPE);
  });

  it('proposes spans, shows them over the clip, and keeps those that are left in', async () => {
    const before = (await told()).length;
    await press('p');
    await visitor.find('[aria-label="Proposed spans"] li');
    expect(await read(`document.querySelectorAll('.timeline .proposed').length`)).toBeGreaterThan(
      0,
    );
    const offered = await read<number>(
      `document.querySelectorAll('[aria-label="Proposed spans"] li').length`,
    );
    expect(await visitor.axe()).toEqual([]);
    await press('x');
    await visitor.eventually(
      async () =>
        (await read<number>(`document.querySelectorAll('.timeline .proposed').length`)) ===
        offered - 1,
      'one left out',
    );
    await press('x', Key.ENTER);
    await visitor.eventually(
      async () => (await told()).length === before + offered,
      'what was proposed',
    );
    await visitor.driver.actions().keyDown(Key.CONTROL).sendKeys('z').keyUp(Key.CONTROL).perform();
    await tells(before);
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
