import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  Browser,
  Builder,
  By,
  error,
  Key,
  logging,
  until,
  type WebDriver,
  type WebElement,
} from 'selenium-webdriver';
import { Options, ServiceBuilder, type Driver } from 'selenium-webdriver/chrome.js';

/** Headless Chromium of Debian's packages, driven as a person would use it. */
const FLAGS = [
  '--headless=new',
  '--no-sandbox',
  '--disable-dev-shm-usage',
  '--disable-gpu',
  '--hide-scrollbars',
  '--force-device-scale-factor=1',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--disable-default-apps',
  '--autoplay-policy=no-user-gesture-required',
];
const WAIT_MS = 90_000;
const AWAKE_MS = 10_000;
/** The page went on to its next state between looking and touching: look again. */
const isMoved = (wrong: unknown): boolean =>
  wrong instanceof error.StaleElementReferenceError ||
  wrong instanceof error.ElementClickInterceptedError ||
  wrong instanceof error.ElementNotInteractableError;
const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

export interface Visitor {
  driver: WebDriver;
  go: (path: string) => Promise<void>;
  /** Keep the first answer to some path back for a while; `body[data-late=came]` is there once it came. */
  late: (path: string) => Promise<void>;
  /** Load the page anew. */
  again: () => Promise<void>;
  find: (css: string) => Promise<WebElement>;
  /** The list of items, once some are in it: keys pressed before are heard by nobody. */
  wall: () => Promise<WebElement>;
  /** A button or link by its visible words or label. */
  named: (words: string, within?: string) => Promise<WebElement>;
  click: (words: string, within?: string) => Promise<void>;
  /** Wait until the page says something. */
  says: (words: string) => Promise<void>;
  signIn: (email: string, password: string) => Promise<void>;
  resize: (width: number, height: number) => Promise<void>;
  /** Keys to whatever has the focus. */
  press: (...keys: string[]) => Promise<void>;
  /** Text into the field found so, in place of what it held. */
  fill: (css: string, text: string) => Promise<void>;
  /** Text into the field of this label, in place of what it held. */
  write: (label: string, text: string) => Promise<void>;
  /** Wait until something holds. */
  eventually: (holds: () => Promise<boolean>, what: string) => Promise<void>;
  /** Do something, and wait until the page has so many answers of the server because of it. */
  answered: (path: string, act: () => Promise<unknown>, times?: number) => Promise<void>;
  /** What axe finds against WCAG 2.2 AA on the page as it stands. */
  axe: () => Promise<string[]>;
  shoot: (path: string) => Promise<void>;
  /** Errors the page wrote into the console since the last call. */
  complaints: () => Promise<string[]>;
  downloads: string;
  quit: () => Promise<void>;
}

/** Open a window of 1280 × 800 on an address. */
export async function openBrowser(address: string): Promise<Visitor> {
  const profile = mkdtempSync(join(tmpdir(), 'mindful-browser-'));
  const downloads = join(profile, 'downloads');
  const options = new Options();
  options.setChromeBinaryPath('/usr/bin/chromium');
  options.addArguments(...FLAGS, '--window-size=1280,800', `--user-data-dir=${profile}`);
  options.setUserPreferences({
    'download.default_directory': downloads,
    'download.prompt_for_download': false,
  });
  const preferences = new logging.Preferences();
  preferences.setLevel(logging.Type.BROWSER, logging.Level.ALL);
  options.setLoggingPrefs(preferences);
  const driver = await new Builder()
    .forBrowser(Browser.CHROME)
    .setChromeOptions(options)
    .setChromeService(new ServiceBuilder('/usr/bin/chromedriver'))
    .build();
  const resize = (width: number, height: number) =>
    (driver as Driver).sendDevToolsCommand('Emulation.setDeviceMetricsOverride', {
      width,
      height,
      deviceScaleFactor: 1,
      mobile: width < 600,
    });
  await resize(1280, 800);
  const find = (css: string): Promise<WebElement> =>
    driver.wait(
      until.elementLocated(By.css(css)),
      WAIT_MS,
      `no ${css}`,
    ) as unknown as Promise<WebElement>;
  const named = async (words: string, within = 'body'): Promise<WebElement> =>
    (await driver.wait(
      async () =>
        (await driver.executeScript(
          `const all = [...document.querySelectorAll(arguments[1] + ' button, ' + arguments[1] + ' a, ' + arguments[1] + ' [role=option], ' + arguments[1] + ' summary')];
           const name = (e) => (e.getAttribute('aria-label') ?? e.innerText).replace(/\\s+/g, ' ').trim();
           const seen = all.filter((e) => e.getClientRects().length > 0 && !e.disabled);
           return seen.find((e) => name(e) === arguments[0]) ?? seen.find((e) => name(e).startsWith(arguments[0])) ?? null;`,
          words,
          within,
        )) as WebElement | null,
      WAIT_MS,
      `nothing is called “${words}”`,
    )) as WebElement;
  /** Do something with what stands on the page, again when the page moved on meanwhile. */
  const steadily = async (act: () => Promise<unknown>, what: string): Promise<void> => {
    await driver.wait(
      async () => {
        try {
          await act();
          return true;
        } catch (wrong) {
          if (isMoved(wrong)) return false;
          throw wrong;
        }
      },
      WAIT_MS,
      what,
    );
  };
  /** Keys pressed before the page's own code runs are heard by nobody; pages without code have nothing to wait for. */
  const awake = async (): Promise<void> => {
    const isAwake = (): Promise<boolean> =>
      driver.executeScript(
        `return document.documentElement.dataset.awake !== undefined || !document.body.dataset.sveltekitPreloadData`,
      );
    await driver.wait(isAwake, AWAKE_MS).catch(() => undefined);
  };
  const visitor: Visitor = {
    driver,
    find,
    wall: async () => {
      await find('[role=listbox] [role=option]');
      return find('[role=listbox]');
    },
    named,
    resize: async (width, height) => {
      await resize(width, height);
    },
    downloads,
    go: async (path) => {
      await driver.get(new URL(path, address).href);
      await awake();
    },
    late: (path) =>
      driver.executeScript(
        `const ask = window.fetch;
         const [path] = arguments;
         let isFirst = true;
         window.fetch = async (...given) => {
           const answer = await ask(...given);
           if (isFirst && String(given[0]).includes(path)) {
             isFirst = false;
             await new Promise((go) => setTimeout(go, 1500));
             setTimeout(() => (document.body.dataset.late = 'came'), 300);
           }
           return answer;
         };`,
        path,
      ),
    again: async () => {
      await driver.navigate().refresh();
      await awake();
    },
    click: async (words, within) => {
      await steadily(async () => {
        const element = await named(words, within);
        await driver.executeScript('arguments[0].scrollIntoView({block: "nearest"})', element);
        await element.click();
      }, `“${words}” cannot be clicked`);
    },
    fill: (css, text) =>
      steadily(async () => {
        const input = await find(css);
        await input.clear();
        await input.sendKeys(text);
      }, `nothing can be written into ${css}`),
    says: async (words) => {
      await driver.wait(
        async () =>
          (await driver.executeScript<string>('return document.body?.innerText ?? ""'))
            .replace(/\s+/g, ' ')
            .includes(words),
        WAIT_MS,
        `the page does not say “${words}”`,
      );
    },
    signIn: async (email, password) => {
      await visitor.go('/sign-in');
      await visitor.fill('input[name=email]', email);
      await visitor.fill('input[name=password]', password);
      await visitor.click('Sign in');
      await driver.wait(
        until.urlContains('/catalogue'),
        WAIT_MS,
        'signing in did not lead to the catalogue',
      );
      await find('.catalogue');
    },
    press: (...keys) =>
      driver
        .actions()
        .sendKeys(...keys)
        .perform(),
    write: (label, text) =>
      steadily(async () => {
        const input = await find(`[aria-label="${label}"]`);
        await input.sendKeys(Key.chord(Key.CONTROL, 'a'), Key.DELETE, text);
      }, `nothing can be written into “${label}”`),
    eventually: async (holds, what) => {
      // What is looked at may be drawn anew just then: it is looked at again.
      const steady = async (): Promise<boolean> => {
        try {
          return await holds();
        } catch (wrong) {
          if (isMoved(wrong)) return false;
          throw wrong;
        }
      };
      await driver.wait(steady, WAIT_MS, what).catch(async (error: Error) => {
        const shown = await driver.findElement(By.css('body')).getText();
        throw new Error(`${error.message}\nThe page says: ${shown.slice(0, 1500)}`);
      });
    },
    answered: async (path, act, times = 1) => {
      await driver.executeScript('performance.clearResourceTimings()');
      await act();
      const answers = `return performance.getEntriesByType('resource').filter(({ name }) => name.includes(arguments[0])).length`;
      await visitor.eventually(
        async () => (await driver.executeScript<number>(answers, path)) >= times,
        `${times} answers of ${path}`,
      );
    },
    axe: async () => {
      await driver.executeScript(AXE);
      return driver.executeAsyncScript(
        `const done = arguments[0];
         axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'] })
           .then(({ violations }) => done(violations.map((v) => v.id + ': ' + v.nodes.slice(0, 3).map((n) => n.target.join(' ') + ' ' + (n.any[0]?.message ?? '')).join(' | '))));`,
      );
    },
    shoot: async (path) => {
      await driver.sleep(700);
      writeFileSync(path, Buffer.from(await driver.takeScreenshot(), 'base64'));
    },
    complaints: async () => {
      const entries = await driver.manage().logs().get(logging.Type.BROWSER);
      return entries
        .filter(({ level }) => level.value >= logging.Level.SEVERE.value)
        .map(({ message }) => message);
    },
    quit: async () => {
      await driver.quit();
      rmSync(profile, { recursive: true, force: true });
    },
  };
  return visitor;
}
