// What start, test and build share. Plain JavaScript: it runs before anything is installed.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = path.join(path.dirname(fileURLToPath(import.meta.url)), '..');

/** Ends with a message when this Node.js is too old. */
export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major > 20 || (major === 20 && minor >= 19)) return;
  console.error(`Keen Lens needs Node.js 20.19 or newer; this is ${process.versions.node}.`);
  process.exit(1);
}

/** Installs packages when they are missing or the lock file has changed. */
export function installIfNeeded() {
  const stamp = path.join(root, 'node_modules/.keen-lens-lock');
  const lock = hash([path.join(root, 'package-lock.json')]);
  if (fs.existsSync(stamp) && fs.readFileSync(stamp, 'utf8') === lock) return;
  if (
    fs.existsSync(path.join(root, 'node_modules')) &&
    !fs.existsSync(stamp) &&
    spawnSync('npm', ['ls', '--silent'], { cwd: root }).status === 0
  ) {
    fs.writeFileSync(stamp, lock);
    return;
  }
  haveCompiler();
  console.log('Installing packages ...');
  const run = spawnSync('npm', ['ci', '--no-audit', '--no-fund'], {
    cwd: root,
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  if (run.status !== 0) {
    console.error(
      'The packages could not be installed. Is the npm registry reachable, and are python3, make and g++ there (for SQLite)?',
    );
    process.exit(run.status ?? 1);
  }
  fs.writeFileSync(stamp, lock);
}

/** SQLite is compiled at install: what that needs is asked for before it fails half-way. */
function haveCompiler() {
  const onPath = (name) =>
    (process.env.PATH ?? '').split(path.delimiter).some((folder) => folder && fs.existsSync(path.join(folder, name)));
  const missing = [
    onPath('python3') ? '' : 'python3',
    onPath('make') || onPath('gmake') ? '' : 'make',
    ['c++', 'g++', 'clang++', process.env.CXX ?? ''].some((n) => n && onPath(n)) ? '' : 'a C++ compiler (g++)',
  ].filter(Boolean);
  if (missing.length === 0 || process.platform === 'win32') return;
  console.error(
    `The installation compiles SQLite and needs ${missing.join(', ')}, missing here.\nInstall it (Debian: apt-get install python3 make g++), then run this command again.`,
  );
  process.exit(1);
}

/** Whether the commands were built from what the sources are now: told by the times of the files, which takes no time. */
export function isBuilt() {
  const made = fs.statSync(path.join(root, 'dist/node/main.js'), { throwIfNoEntry: false })?.mtimeMs ?? 0;
  return (
    made > 0 && [...files('src'), path.join(root, 'package-lock.json')].every((f) => fs.statSync(f).mtimeMs <= made)
  );
}

const stamp = path.join(root, 'dist/.keen-lens-sources');

/** What a build is made from, as a hash. */
export const sources = () =>
  hash([...files('src'), ...files('public'), path.join(root, 'astro.config.ts'), path.join(root, 'package-lock.json')]);

/** Says from which sources `dist/` was built, whoever built it; undefined while that is being done. */
export function markBuilt(from) {
  if (from === undefined) fs.rmSync(stamp, { force: true });
  else fs.writeFileSync(stamp, from);
}

/** Builds when the sources are not those of what was built. */
export function buildIfStale() {
  if (fs.existsSync(stamp) && fs.readFileSync(stamp, 'utf8') === sources()) return;
  console.log('Building ...');
  const run = spawnSync(process.execPath, [path.join(root, 'scripts/build.mjs')], {
    cwd: root,
    stdio: ['ignore', 'pipe', 'inherit'],
    encoding: 'utf8',
  });
  if (run.status !== 0) {
    console.error(run.stdout);
    process.exit(run.status ?? 1);
  }
}

function files(folder) {
  return fs
    .readdirSync(path.join(root, folder), { recursive: true, withFileTypes: true })
    .filter((f) => f.isFile())
    .map((f) => path.join(f.parentPath ?? f.path, f.name))
    .sort();
}

function hash(list) {
  const h = createHash('sha256');
  for (const file of list) h.update(path.relative(root, file)).update(fs.readFileSync(file));
  return h.digest('hex');
}
