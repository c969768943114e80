// npm test: installs if need be, then types, lint, unit, API and browser tests. `npm run lint` also looks at the format.
import { spawn, spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { buildIfStale, checkNode, installIfNeeded, root } from './shared.mjs';

checkNode();
installIfNeeded();
haveChromium();
haveWebServers();
haveRedis();
haveFirefox();
step('types', ['node_modules/astro/astro.js', 'sync'], 'ignore');
// Side by side: none of them needs another's result.
await Promise.all([
  check('types', ['node_modules/typescript/bin/tsc', '--noEmit']),
  check('lint', ['node_modules/eslint/bin/eslint.js', '.']),
]);
buildIfStale();
const demo = fs.mkdtempSync(path.join(os.tmpdir(), 'keen-lens-demo-'));
process.on('exit', () => fs.rmSync(demo, { recursive: true, force: true }));
process.env.KEEN_LENS_TEST_DEMO = demo;
step(
  'demo',
  ['bin/keen-lens.mjs', 'demo', '--data', demo, '--json'],
  fs.openSync(path.join(demo, 'printed.json'), 'w'),
);
step('tests', ['node_modules/mocha/bin/mocha.js', ...process.argv.slice(2)]);

/** Runs a check beside others; ends everything when it fails. */
function check(name, args) {
  const started = Date.now();
  return new Promise((done) => {
    spawn(process.execPath, args, { cwd: root, stdio: 'inherit' }).on('exit', (code) => {
      if (code !== 0) {
        console.error(`\n${name} failed.`);
        process.exit(code ?? 1);
      }
      console.log(`${name}: ${((Date.now() - started) / 1000).toFixed(1)} s`);
      done();
    });
  });
}

/** @param output where what it prints goes; errors and progress are shown */
function step(name, args, output = 'inherit') {
  const started = Date.now();
  const run = spawnSync(process.execPath, args, {
    cwd: root,
    stdio: ['ignore', output, 'inherit'],
    env: { ...process.env, ASTRO_TELEMETRY_DISABLED: '1' },
  });
  if (run.status !== 0) {
    console.error(`\n${name} failed.`);
    process.exit(run.status ?? 1);
  }
  if (output === 'inherit') console.log(`${name}: ${((Date.now() - started) / 1000).toFixed(1)} s`);
}

/** Redirect rules are tried on real web servers where these are there. */
function haveWebServers() {
  const missing = installed({ nginx: 'nginx-light', apache2: 'apache2', caddy: 'caddy' });
  if (missing.length > 0)
    console.log(`Redirect rules will not be tried on all servers: install ${missing.join(', ')} to do so.`);
}

/** Recorders elsewhere are tried with a real queue, which the tests start on a free port. */
function haveRedis() {
  const missing = installed({ 'redis-server': 'redis-server' });
  if (missing.length > 0) console.log('Recorders elsewhere will not be tried: install redis-server to do so.');
}

/** What a browser's console saves is tried in Firefox, too. */
function haveFirefox() {
  const missing = installed({ 'firefox-esr': 'firefox-esr' });
  if (missing.length > 0)
    console.log('The console snippet will not be tried in Firefox: install firefox-esr to do so.');
}

/** Installs what is missing of some programs on Debian as root, without starting it; gives the packages still missing. */
function installed(programs) {
  const places = [...(process.env.PATH ?? '').split(path.delimiter), '/usr/sbin'];
  const packages = Object.entries(programs);
  const missing = () =>
    packages.flatMap(([program, name]) => (places.some((p) => fs.existsSync(path.join(p, program))) ? [] : [name]));
  if (missing().length === 0) return [];
  if (process.getuid?.() === 0 && fs.existsSync('/usr/bin/apt-get')) {
    console.log(`Installing ${missing().join(', ')} ...`);
    const policy = '/usr/sbin/policy-rc.d';
    const ours = !fs.existsSync(policy);
    if (ours) fs.writeFileSync(policy, '#!/bin/sh\nexit 101\n', { mode: 0o755 });
    const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
    spawnSync('apt-get', ['update', '-qq'], { stdio: 'ignore', env });
    spawnSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...missing()], { stdio: 'ignore', env });
    if (ours) fs.rmSync(policy, { force: true });
  }
  return missing();
}

/** The browser tests and the recorder need Chromium; on Debian as root it is installed. */
function haveChromium() {
  const there = () =>
    (process.env.KEEN_LENS_CHROMIUM && fs.existsSync(process.env.KEEN_LENS_CHROMIUM)) ||
    (process.env.PATH ?? '')
      .split(path.delimiter)
      .some((p) => ['chromium', 'chromium-browser'].some((n) => fs.existsSync(path.join(p, n))));
  if (there()) return;
  if (process.getuid?.() === 0 && fs.existsSync('/usr/bin/apt-get')) {
    console.log('Installing Chromium ...');
    const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
    spawnSync('apt-get', ['update', '-qq'], { stdio: 'inherit', env });
    spawnSync('apt-get', ['install', '-y', '-qq', 'chromium'], { stdio: ['ignore', 'ignore', 'inherit'], env });
    if (there()) return;
  }
  console.error(
    'The tests need Chromium: install it (Debian: apt-get install chromium) or set KEEN_LENS_CHROMIUM to its path.',
  );
  process.exit(1);
}
