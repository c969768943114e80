// npm start: installs and builds if need be, puts the demo in on the first run, serves.
import { spawn } from 'node:child_process';
import fs from 'node:fs';
import { createRequire } from 'node:module';
import http from 'node:http';
import net from 'node:net';
import path from 'node:path';
import { parseArgs } from 'node:util';
import { buildIfStale, checkNode, installIfNeeded, root } from './shared.mjs';

const USAGE = 'npm start -- [--port N] [--host ADDRESS] [--data DIR] [--no-demo]';
const options = readOptions();
if (options.help) {
  console.log(USAGE);
  process.exit(0);
}
checkNode();
installIfNeeded();
buildIfStale();

const host = options.host ?? '127.0.0.1';
const data = path.resolve(options.data ?? process.env.KEEN_LENS_DATA ?? path.join(root, '.data'));
if (!/^(127\.|localhost$|::1$)/.test(host) && !process.env.KEEN_LENS_PASSWORD && !hasAccounts()) {
  console.error(
    'Serving beyond this machine needs a password or accounts: set KEEN_LENS_PASSWORD, or make an account with keen-lens account add, and start again.',
  );
  process.exit(2);
}
const first = !fs.existsSync(path.join(data, 'keen-lens.db'));
const env = { ...process.env, KEEN_LENS_ROOT: root, KEEN_LENS_DATA: data };
if (first && !options['no-demo']) {
  console.log('First run: putting the demo in ...');
  await new Promise((done) =>
    spawn(process.execPath, [path.join(root, 'bin/keen-lens.mjs'), 'demo', '--data', data], {
      stdio: 'inherit',
      env,
    }).on('exit', done),
  );
}
const wanted = options.port ?? process.env.PORT;
const port = await freePort(Number(wanted ?? 4270), wanted !== undefined);
// One heap for all threads: glibc keeps what each of several has freed, 125 MiB on a large site.
const memory = JSON.parse(fs.readFileSync(path.join(root, 'scripts/serverEnv.json'), 'utf8'));
const server = spawn(process.execPath, [path.join(root, 'src/server/main.mjs')], {
  stdio: ['ignore', 'ignore', 'inherit'],
  env: { ...memory, ...env, HOST: host, PORT: String(port) },
});
server.on('exit', (code) => process.exit(code ?? 1));
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
const fault = await answers(port, host);
if (fault) {
  console.error(`${fault.what}\n  where: ${fault.where}\n  next:  ${fault.next}`);
  server.removeAllListeners('exit');
  server.kill('SIGTERM');
  process.exit(1);
}
console.log(`Keen Lens is at http://${host.includes(':') ? `[${host}]` : host}:${port}/  (stop with Ctrl C)`);
// The code of the first screen is read while nobody waits for it.
http
  .get({ host, port, path: '/', headers: { host: `localhost:${port}`, ...authorization() } }, (page) => page.resume())
  .on('error', () => undefined);

/** The wanted port, or the next free one when it was not asked for by name. */
async function freePort(from, strict) {
  for (let p = from; p < from + 50; p++) {
    const free = await new Promise((done) => {
      const probe = net.createServer().once('error', () => done(false));
      probe.listen(p, host, () => probe.close(() => done(true)));
    });
    if (free) return p;
    if (strict) {
      console.error(`Port ${p} is in use. Choose another: npm start -- --port ${p + 1}`);
      process.exit(1);
    }
  }
  console.error('No free port was found.');
  process.exit(1);
}

/** `--port 4300` and `--port=4300` alike; anything else is refused with a word. */
function readOptions() {
  try {
    const { values } = parseArgs({
      options: {
        port: { type: 'string' },
        host: { type: 'string' },
        data: { type: 'string' },
        'no-demo': { type: 'boolean' },
        help: { type: 'boolean' },
      },
    });
    const port = Number(values.port ?? 1);
    if (!Number.isInteger(port) || port < 1 || port > 65_535) throw new Error(`"${values.port}" is no port`);
    return values;
  } catch (error) {
    console.error(`${error.message}\n${USAGE}`);
    process.exit(2);
  }
}

/** Whether people have accounts: then nobody else gets in. */
function hasAccounts() {
  try {
    const Database = createRequire(import.meta.url)('better-sqlite3');
    const db = new Database(path.join(data, 'keen-lens.db'), { readonly: true, fileMustExist: true });
    const one = db.prepare('select 1 from accounts limit 1').get();
    db.close();
    return one !== undefined;
  } catch {
    return false;
  }
}

/** Our own first question knows the password too. */
function authorization() {
  const password = process.env.KEEN_LENS_PASSWORD;
  return password ? { authorization: `Basic ${Buffer.from(`:${password}`).toString('base64')}` } : {};
}

/** Waits until the server answers; its first answer also sets unfinished jobs going. Gives what keeps it from working. */
function answers(p, h) {
  return new Promise((done) => {
    const attempt = () => {
      const request = http.get(
        { host: h, port: p, path: '/api/health', headers: { host: `localhost:${p}`, ...authorization() } },
        (answer) => {
          let text = '';
          answer.setEncoding('utf8');
          answer.on('data', (part) => (text += part));
          answer.on('end', () => done(answer.statusCode === 503 ? JSON.parse(text).error : undefined));
        },
      );
      request.on('error', () => setTimeout(attempt, 50));
    };
    attempt();
  });
}
