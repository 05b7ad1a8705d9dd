import { Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import { openBrowser, type Visitor } from '../support/browser';

/** The archive's lists as their keeper keeps them, and as others see them. */
let visitor: Visitor;
beforeAll(async () => {
  visitor = await openBrowser(process.env['MINDFUL_TEST_ADDRESS']!);
  await visitor.signIn(DEMO_ACCOUNTS[0]!.email, DEMO_PASSWORD);
});
afterAll(() => visitor?.quit());

const texts = async (css: string): Promise<string[]> =>
  visitor.driver.executeScript(
    'return [...document.querySelectorAll(arguments[0])].map((one) => one.innerText.trim())',
    css,
  );
const choose = async (label: string, option: string): Promise<void> => {
  await visitor.driver.executeScript(
    `const [label, words] = arguments;
     const select = [...document.querySelectorAll('select')].find((one) =>
       (one.ariaLabel ?? one.labels?.[0]?.innerText ?? '').trim().startsWith(label));
     select.value = [...select.options].find((one) => one.text.includes(words)).value;
     select.dispatchEvent(new Event('change', { bubbles: true }));`,
    ...[label, option],
  );
};
/** Take back what was done last. */
const undo = (): Promise<void> =>
  visitor.driver.executeScript(
    `[...document.querySelectorAll('.notices button')].filter((one) => one.innerText === 'Undo').at(-1).click()`,
  );
const stages = () => texts('.page li .name');

describe('stages', () => {
  it('are made with a mark and a key that works at once; renamed, moved, merged, each taken back', async () => {
    await visitor.go('/lists/stages');
    await visitor.says('in use');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Make a stage');
    await visitor.fill('dialog .form > label input', 'With layout');
    await choose('Key', 'Q');
    await visitor.click('Make the stage', 'dialog');
    await visitor.eventually(async () => (await stages()).includes('With layout'), 'the stage');

    await visitor.go('/catalogue?q=kind+photo%3B+order+number');
    await (await visitor.wall()).sendKeys(Key.ARROW_RIGHT, 'q');
    await visitor.find('aside svg[aria-label="Stage: With layout"]');

    await visitor.go('/lists/stages');
    await visitor.click('With layout');
    await visitor.fill('dialog .form > label input', 'At layout');
    await visitor.says('will say “At layout”');
    await visitor.click('Save the stage', 'dialog');
    await visitor.says('and 1 item with it');
    await visitor.eventually(async () => (await stages()).includes('At layout'), 'the new name');

    await visitor.click('Merge … At layout');
    await choose('Into', 'For print');
    await visitor.says('1 item goes');
    await visitor.click('Merge', 'dialog footer');
    await visitor.eventually(async () => !(await stages()).includes('At layout'), 'the merger');
    await undo();
    await visitor.eventually(async () => (await stages()).includes('At layout'), 'the stage back');

    const before = await stages();
    await visitor.click('Up: At layout');
    await visitor.eventually(
      async () => (await stages()).indexOf('At layout') === before.indexOf('At layout') - 1,
      'the other place',
    );
  });
});

describe('the thesaurus', () => {
  it('is walked by keys, found by any label, made, moved, merged; the address says which term', async () => {
    await visitor.go('/lists');
    const tree = await visitor.find('[role=tree]');
    expect(await visitor.axe()).toEqual([]);
    await visitor.write('Find a term', 'drach');
    await visitor.says('by “Drachen”');
    await visitor.press(Key.ENTER);
    await visitor.eventually(
      async () => (await visitor.driver.getCurrentUrl()).includes('term='),
      'the address',
    );
    await visitor.says('Scope note');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Make a narrower term');
    await visitor.fill('dialog input', 'Sled kite');
    await visitor.click('Make the term', 'dialog');
    await visitor.eventually(
      async () =>
        (await visitor.find('input.title'))
          .getAttribute('value')
          .then((text) => text === 'Sled kite'),
      'its card',
    );
    await visitor.fill('input.title', 'Flat sled');
    await visitor.write('Another label', 'Scott sled');
    await visitor.press(Key.ENTER);
    await visitor.click('Save the term');
    await visitor.says('Term changed');
    await visitor.eventually(
      async () => (await texts('article li')).some((text) => text.includes('Sled kite')),
      'the former label',
    );

    await visitor.click('Merge into another');
    await visitor.write('The term that stays', 'box ki');
    await visitor.driver.sleep(600);
    await visitor.press(Key.ENTER);
    await visitor.says('is also known as “Flat sled”');
    await visitor.click('Merge', 'dialog footer');
    await visitor.eventually(
      async () =>
        (await visitor.find('input.title'))
          .getAttribute('value')
          .then((text) => text === 'Box kite'),
      'the card of the one that stays',
    );
    await visitor.says('Scott sled');
    await visitor.write('Find a term', ' ');
    await tree.sendKeys(Key.HOME, Key.ARROW_DOWN);
    await visitor.find('[role=treeitem].at');
    const closed = (await texts('[role=treeitem]')).length;
    await visitor.driver.executeScript(
      `document.querySelector('[role=tree]').focus();
       const lines = [...document.querySelectorAll('[role=treeitem]')];
       lines.find((one) => one.innerText.includes('Shore')).querySelector('.turn').click();`,
    );
    await visitor.eventually(
      async () => (await texts('[role=treeitem]')).length > closed,
      'a branch',
    );
  });

  it('moves a term by drag onto another, and back', async () => {
    await visitor.go('/lists');
    await visitor.find('[role=treeitem]');
    await visitor.driver.executeAsyncScript(
      `const done = arguments[0];
       const line = (label) => [...document.querySelectorAll('[role=treeitem]')].find((one) =>
         one.querySelector('.name').innerText.trim() === label);
       const [from, to] = [line('Tool'), line('Workshop')];
       const dataTransfer = new DataTransfer();
       const tell = (element, kind) => element.dispatchEvent(
         new DragEvent(kind, { bubbles: true, cancelable: true, composed: true, dataTransfer }));
       const steps = [[from, 'dragstart'], [to, 'dragenter'], [to, 'dragover'], [to, 'drop'], [from, 'dragend']];
       const next = () => {
         const step = steps.shift();
         if (!step) return done();
         tell(...step);
         setTimeout(next, 120);
       };
       next();`,
    );
    await visitor.says('“Tool” stands under “Workshop”');
    await visitor.eventually(
      async () => !(await texts('[role=treeitem] .name')).includes('Tool'),
      'the term to leave the top',
    );
    await undo();
    await visitor.eventually(
      async () => (await texts('[role=treeitem] .name')).includes('Tool'),
      'the term back at the top',
    );
  });

  it('shows what a file would change before it takes it in', async () => {
    await visitor.go('/lists');
    await visitor.click('Files in and out');
    await visitor.find('dialog input[type=file]');
    await visitor.driver.executeScript(
      `const data = new DataTransfer();
       data.items.add(new File(['Knot\\n  Bowline\\n    = Ring knot\\nKite\\n'], 'knots.txt'));
       const input = document.querySelector('dialog input[type=file]');
       input.files = data.files;
       input.dispatchEvent(new Event('change', { bubbles: true }));`,
    );
    await visitor.says('2 new, 0 changed, 1 as they are');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Take in 2 terms', 'dialog');
    await visitor.says('2 terms taken in');
    await visitor.says('Knot');
  });
});

describe('contributors and stamps', () => {
  it('a credit corrected once is corrected in the records, counted before', async () => {
    await visitor.go('/lists/contributors');
    await visitor.says('Ines Harrow / Saltreach Kites');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Ines Harrow');
    await visitor.fill('dialog label:nth-of-type(1) input', 'Ines Harrow-Vey');
    await visitor.says('and their files follow');
    await visitor.click('Save', 'dialog');
    await visitor.says('Contributor changed');
    await undo();
    await visitor.says('Taken back');
  });

  it('a stamp is made, and put onto a selection once it was seen what it changes', async () => {
    await visitor.go('/lists/stamps');
    await visitor.says('Festival book');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Make a stamp');
    await visitor.fill('dialog .names label:nth-of-type(1) input', 'Job 26');
    await choose('Set another field', 'Job');
    // Others may have filled it before.
    await choose('How Job id is set', 'overwrite');
    await visitor.fill('dialog li input', 'J-{number}');
    await visitor.click('Make the stamp', 'dialog');
    await visitor.says('J-{number}');

    await visitor.go('/catalogue?q=kind+photo%3B+order+number');
    await (await visitor.wall()).sendKeys(Key.ARROW_RIGHT, Key.chord(Key.SHIFT, Key.ARROW_RIGHT));
    await visitor.says('2 items');
    await visitor.click('Stamp…', 'aside');
    await visitor.find('dialog select[aria-label=Stamp] optgroup');
    await choose('Stamp', 'Job 26');
    await visitor.says('2 items of 2 change');
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('Stamp 2 items', 'dialog');
    await visitor.says('put onto 2 items');
  });

  it('rules of the house are set, counted, found, and told on the card', async () => {
    await visitor.go('/lists/rules');
    await visitor.says('House rules');
    await choose('A rule for another field', 'Alt text');
    await visitor.click('Save the rules');
    await visitor.says('The rules hold from now on');
    await visitor.eventually(
      async () =>
        (await texts('.page li a')).some((text) => /^[1-9]\d* items? not ready$/.test(text)),
      'the count',
    );
    expect(await visitor.axe()).toEqual([]);
    await visitor.click('what is not ready');
    await visitor.says('not ready by the house rules');
    await (await visitor.wall()).sendKeys(Key.ARROW_RIGHT);
    await visitor.says('Not ready: Alt text is missing.');
    await visitor.go('/lists/rules');
    await visitor.click('Without the rule for Alt text');
    await visitor.click('Save the rules');
    await visitor.says('No rules yet');
  });

  it('are looked at by others, who change none', async () => {
    const other = await openBrowser(process.env['MINDFUL_TEST_ADDRESS']!);
    try {
      await other.signIn(DEMO_ACCOUNTS[2]!.email, DEMO_PASSWORD);
      await other.go('/lists/stages');
      await other.says('Shortlist');
      const buttons = (await other.driver.executeScript(
        'return [...document.querySelectorAll(".page button")].length',
      )) as number;
      expect(buttons).toBe(0);
      await other.go('/lists');
      await other.says('As a file');
    } finally {
      await other.quit();
    }
  });
});
