// @ts-check
/**
 * What runs before anything is installed: plain JavaScript that needs Node.js alone. It installs what is
 * missing — Debian's packages, then npm's by the lock file — and hands over to cli/main.ts.
 */
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { overview, SUMMARIES } from './summaries.mjs';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const [command = 'help', ...args] = process.argv.slice(2);

/** Debian package → a file it installs. */
const PACKAGES = {
  'postgresql-15': '/usr/lib/postgresql/15/bin/initdb',
  ffmpeg: '/usr/bin/ffmpeg',
  perl: '/usr/bin/perl',
  'libheif-examples': '/usr/bin/heif-convert',
  'poppler-utils': '/usr/bin/pdftoppm',
  'libraw-bin': '/usr/bin/dcraw_emu',
};
const TEST_PACKAGES = {
  chromium: '/usr/bin/chromium',
  'chromium-driver': '/usr/bin/chromedriver',
  exiv2: '/usr/bin/exiv2',
  'libxml2-utils': '/usr/bin/xmllint',
};

/** @param {string} sentence @returns {never} */
function giveUp(sentence) {
  console.error(`mindful: ${sentence}`);
  process.exit(1);
}

/** @param {string} program @param {string[]} programArgs @param {NodeJS.ProcessEnv} [env] */
function install(program, programArgs, env = process.env) {
  // What installers say goes to the error stream: standard output is for answers.
  const done = spawnSync(program, programArgs, { cwd: root, env, stdio: ['ignore', 2, 2] });
  return done.status === 0;
}

function ensureSystem() {
  const wanted = Object.entries({ ...PACKAGES, ...(command === 'test' ? TEST_PACKAGES : {}) });
  const missing = wanted.filter(([, path]) => !existsSync(path)).map(([name]) => name);
  if (missing.length === 0) return;
  const before = process.getuid?.() === 0 ? [] : ['sudo', '-n'];
  const names = missing.join(', ');
  console.error(`Installing ${names} …`);
  /** @param {string[]} rest */
  const apt = (...rest) => {
    const [program = '', ...line] = [
      ...before,
      'apt-get',
      '-o',
      'DPkg::Lock::Timeout=600',
      '-qq',
      ...rest,
    ];
    return install(program, line, { ...process.env, DEBIAN_FRONTEND: 'noninteractive' });
  };
  if (apt('update') && apt('install', '-y', '--no-install-recommends', ...missing)) return;
  giveUp(
    `these packages are missing and could not be installed: ${names}. Install them with apt-get as root.`,
  );
}

const stamp = join(root, 'node_modules', '.mindful-lock');
const lock = createHash('sha256')
  .update(readFileSync(join(root, 'package-lock.json')))
  .digest('hex');
const hasModules = () => existsSync(stamp) && readFileSync(stamp, 'utf8') === lock;

function ensureModules() {
  if (hasModules()) return;
  console.error('Installing npm packages …');
  if (!install('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']))
    giveUp('the npm packages could not be installed; see the lines above.');
  writeFileSync(stamp, lock);
}

const [major = 0] = process.versions.node.split('.').map(Number);
if (major < 20) giveUp(`Node.js 20 or later is needed; this is ${process.versions.node}.`);
// Who asks for help wants to read, not to install.
const asks = ['help', '--help', '-h'].includes(command) || args.includes('--help');
if (asks && (SUMMARIES[command] === undefined || !hasModules())) {
  console.log(overview());
  if (SUMMARIES[command])
    console.log(`\nMore on “${command}” once it was started for the first time.`);
  process.exit(0);
}
if (!asks) {
  ensureSystem();
  ensureModules();
}

const loader = pathToFileURL(join(root, 'node_modules/tsx/dist/loader.mjs')).href;
const child = spawn(
  process.execPath,
  ['--import', loader, join(root, 'cli/main.ts'), command, ...args],
  {
    stdio: 'inherit',
  },
);
for (const signal of /** @type {const} */ (['SIGINT', 'SIGTERM', 'SIGHUP']))
  process.on(signal, () => {
    // Ctrl-C reaches the child by itself; a signal sent to us alone does not.
    child.kill(signal);
  });
child.on('exit', (code, signal) => process.exit(code ?? (signal ? 1 : 0)));
