import { join, resolve } from 'node:path';
import { Key } from 'selenium-webdriver';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import { openBrowser } from './browser';

/**
 * Refresh docs/screenshots from a demo that runs:
 * node --import tsx tests/support/screenshots.ts http://127.0.0.1:4180
 */
const FOLDER = resolve(import.meta.dirname, '../../docs/screenshots');
const visitor = await openBrowser(process.argv[2] ?? 'http://127.0.0.1:4180');
const { driver } = visitor;
/** Where this machine keeps its archive is nobody's business: pictures show a path of the demo's own. */
const shoot = async (name: string): Promise<void> => {
  await visitor.driver.executeScript(`
    const texts = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
    for (let at = texts.nextNode(); at; at = texts.nextNode())
      at.data = at.data.replace(/\\/[\\w./-]*?\\/(holdings|devices|incoming)\\b/g, '/srv/saltreach/$1');`);
  await visitor.shoot(join(FOLDER, `${name}.png`));
};
const pause = (seconds: number): Promise<void> => driver.sleep(seconds * 1000);
const list = () => visitor.wall();

try {
  await visitor.signIn(DEMO_ACCOUNTS[0]!.email, DEMO_PASSWORD);

  await visitor.go('/catalogue?q=in+"Studio+shelf/Wind+Week"%3B+taken+2026-09%3B+rated+1..');
  await (
    await list()
  ).sendKeys(Key.ARROW_RIGHT, Key.ARROW_RIGHT, Key.chord(Key.SHIFT, Key.ARROW_RIGHT));
  await pause(2);
  await shoot('catalogue');
  await (await list()).sendKeys(Key.chord(Key.CONTROL, 'a'));
  await visitor.says('lack a credit');
  await visitor.click('Rename', '.bar');
  await visitor.says('SLT-');
  await pause(1);
  await shoot('rename');
  await visitor.press(Key.ESCAPE);
  await visitor.click('File', '.bar');
  await visitor.write('Filing pattern', 'Wind Week/{taken yyyy}/{taken MMMM}/{camera}');
  await visitor.says('new folders');
  await pause(1);
  await shoot('filing');

  await visitor.go('/catalogue?q=kind+photo%3B+rated+3..%3B+order+taken&view=register');
  await pause(2);
  await (
    await visitor.find('[role=grid]')
  ).sendKeys(Key.ARROW_DOWN, Key.ARROW_DOWN, Key.ARROW_RIGHT, Key.ARROW_RIGHT);
  await pause(1);
  await shoot('register');

  await visitor.go('/catalogue');
  await list();
  await visitor.press('h');
  await visitor.find('.holdings .node');
  await visitor.press(Key.ARROW_DOWN);
  await visitor.press(Key.ARROW_RIGHT);
  await pause(2);
  await shoot('holdings');

  await visitor.go('/catalogue?view=timeline');
  await visitor.find('.timeline .bar');
  await pause(1);
  await shoot('timeline');
  await visitor.go('/catalogue?view=atlas');
  await visitor.find('.atlas .mark');
  await pause(1);
  await shoot('atlas');
  await visitor.go('/lists');
  await visitor.find('[role=treeitem]');
  await driver.executeScript(
    `const line = (label) => [...document.querySelectorAll('[role=treeitem]')].find((one) => one.innerText.includes(label));
     line('Shore').querySelector('.turn').click();
     line('Kite').querySelector('.turn').click();
     line('Kite').click();`,
  );
  await pause(2);
  await shoot('thesaurus');
  await visitor.go('/census');
  await visitor.says('What is missing');
  await pause(1);
  await shoot('census');

  await visitor.go(
    '/catalogue?q=kind+photo%3B+in+"Studio+shelf/Wind+Week/Harbour+flights"%3B+order+size+down',
  );
  await (await list()).sendKeys(Key.ARROW_RIGHT, Key.ENTER);
  await visitor.find('.zoom[data-ready=true]');
  await pause(2);
  await shoot('close-view');

  await visitor.go('/catalogue?q=kind+photo%3B+has+burst%3B+order+taken');
  await (
    await list()
  ).sendKeys(
    Key.ARROW_RIGHT,
    Key.ARROW_RIGHT,
    Key.chord(Key.SHIFT, Key.ARROW_RIGHT),
    Key.chord(Key.SHIFT, Key.ARROW_RIGHT),
  );
  await pause(1);
  await visitor.click('Side by side', '.bar');
  await visitor.find('.zoom[data-ready=true]');
  await pause(4);
  await shoot('side-by-side');

  // A span leads to its clip's log, at its frame.
  await visitor.go('/catalogue?q=kind+span%3B+rated+5..');
  await (await list()).sendKeys(Key.ARROW_RIGHT, Key.ENTER);
  await visitor.find('.timeline .bar');
  await pause(3);
  await shoot('footage');

  await visitor.go('/collections');
  await visitor.click('Wind Week, one minute');
  await visitor.find('.stage video.seen');
  for (let at = 0; at < 12; at += 1) await visitor.press('.');
  await pause(3);
  await shoot('sequence');

  await visitor.go('/intake');
  await visitor.click('Camera card B');
  await driver.wait(
    async () =>
      (await driver.executeScript(
        'return document.querySelector(".tick") !== null && document.querySelector(".looking") === null',
      )) === true,
    180_000,
  );
  await pause(2);
  await shoot('intake');
  await visitor.click('2026.001 Wind Week', '.side');
  await visitor.says('xxh3-128');
  await shoot('report');

  await visitor.go('/collections');
  await visitor.click('Festival book, chapter 2');
  await visitor.says('Drag to put in order');
  await pause(1);
  await shoot('collection');
  await visitor.click('Open a reading room');
  await (
    await visitor.find('dialog textarea')
  ).sendKeys('Dear Ana, these are the harbour flights for chapter 2. Pick what speaks to you.');
  await visitor.click('Open it', 'dialog');
  await visitor.says('shown only now');
  const link = (await (await visitor.find('dialog input[readonly]')).getAttribute('value')) ?? '';

  await visitor.go('/ledger');
  await pause(1);
  await shoot('ledger');

  await driver.get(link);
  await visitor.says('Dear Ana');
  await visitor.click('Pick');
  await pause(2);
  await shoot('reading-room');
  await visitor.go('/dispatch');
  await pause(1);
  await shoot('dispatch');
  const complaints = await visitor.complaints();
  if (complaints.length > 0) throw new Error(complaints.join('\n'));
} finally {
  await visitor.quit();
}
