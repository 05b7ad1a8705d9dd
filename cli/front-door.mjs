// @ts-check
/**
 * What runs before anything is installed: plain JavaScript that needs Node.js alone. It installs what is
 * missing — Debian's packages, then npm's by the lock file — and hands over to cli/main.ts.
 */
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  existsSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
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
  ghostscript: '/usr/bin/gs',
  imagemagick: '/usr/bin/convert',
};
const TEST_PACKAGES = {
  chromium: '/usr/bin/chromium',
  'chromium-driver': '/usr/bin/chromedriver',
  exiv2: '/usr/bin/exiv2',
  'libxml2-utils': '/usr/bin/xmllint',
  'raptor2-utils': '/usr/bin/rapper',
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

const KEPT_TRANSLATIONS = 4;

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

/** @param {string} path @returns {Generator<string>} */
function* filesBelow(path) {
  for (const entry of readdirSync(path, { withFileTypes: true })) {
    const below = join(path, entry.name);
    if (entry.isDirectory()) yield* filesBelow(below);
    else if (entry.name.endsWith('.ts')) yield below;
  }
}

/**
 * The commands in plain JavaScript, translated when their sources changed: thousands of modules, each asked for
 * through a translating loader, would take seconds at every start.
 * @returns {Promise<string>} path of the script
 */
async function commands() {
  const hash = createHash('sha256').update(lock);
  for (const part of ['cli', 'demo', 'bench', 'src/lib'])
    for (const path of [...filesBelow(join(root, part))].sort())
      hash.update(path).update(readFileSync(path));
  const kept = join(root, '.build');
  const folder = join(kept, `cli-${hash.digest('hex').slice(0, 16)}`);
  const script = join(folder, 'main.js');
  if (existsSync(script)) return script;
  const { build } = await import('esbuild');
  const begun = `${folder}.${process.pid}`;
  await build({
    entryPoints: {
      main: join(root, 'cli/main.ts'),
      // A thread needs a script of its own.
      counter: join(root, 'src/lib/server/index/counter.worker.ts'),
      moverThread: join(root, 'src/lib/server/files/moverThread.js'),
    },
    outdir: begun,
    ...{ bundle: true, packages: 'external', splitting: true, sourcemap: true },
    ...{ format: 'esm', platform: 'node', target: 'node20', logLevel: 'error' },
  });
  try {
    renameSync(begun, folder);
  } catch {
    // Another command was sooner with the same.
    rmSync(begun, { recursive: true, force: true });
  }
  // What runs may still ask for parts of an older translation: only the oldest go.
  const older = readdirSync(kept)
    .filter((name) => /^cli-[0-9a-f]{16}$/.test(name))
    .map((name) => ({ name, at: statSync(join(kept, name)).mtimeMs }))
    .sort((one, other) => other.at - one.at);
  for (const { name } of older.slice(KEPT_TRANSLATIONS))
    rmSync(join(kept, name), { recursive: true, force: true });
  return script;
}

const child = spawn(
  process.execPath,
  ['--enable-source-maps', await commands(), command, ...args],
  { stdio: 'inherit' },
);
for (const signal of /** @type {const} */ (['SIGINT', 'SIGTERM', 'SIGHUP']))
  process.on(signal, () => {
    // Ctrl-C reaches the child by itself; a signal sent to us alone does not.
    child.kill(signal);
  });
child.on('exit', (code, signal) => process.exit(code ?? (signal ? 1 : 0)));
