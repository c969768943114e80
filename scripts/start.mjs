// npm start: installs and builds if need be, puts the demo in on the first run, serves.
import { spawn } from 'node:child_process';
import fs from 'node:fs';
import http from 'node:http';
import net from 'node:net';
import path from 'node:path';
import { buildIfStale, checkNode, installIfNeeded, root } from './shared.mjs';

const args = process.argv.slice(2);
const value = (name) => {
  const i = args.indexOf(name);
  return i >= 0 ? args[i + 1] : undefined;
};
if (args.includes('--help')) {
  console.log('npm start -- [--port N] [--host ADDRESS] [--data DIR] [--no-demo]');
  process.exit(0);
}
checkNode();
installIfNeeded();
buildIfStale();

const host = value('--host') ?? '127.0.0.1';
const data = path.resolve(value('--data') ?? process.env.KEEN_LENS_DATA ?? path.join(root, '.data'));
if (!/^(127\.|localhost$|::1$)/.test(host) && !process.env.KEEN_LENS_PASSWORD) {
  console.error('Serving beyond this machine needs a password: set KEEN_LENS_PASSWORD and start again.');
  process.exit(2);
}
const first = !fs.existsSync(path.join(data, 'keen-lens.db'));
const env = { ...process.env, KEEN_LENS_ROOT: root, KEEN_LENS_DATA: data };
if (first && !args.includes('--no-demo')) {
  console.log('First run: putting the demo in ...');
  await new Promise((done) =>
    spawn(process.execPath, [path.join(root, 'bin/keen-lens.mjs'), 'demo', '--data', data], {
      stdio: 'inherit',
      env,
    }).on('exit', done),
  );
}
const wanted = value('--port') ?? process.env.PORT;
const port = await freePort(Number(wanted ?? 4270), wanted !== undefined);
const server = spawn(process.execPath, [path.join(root, 'dist/server/entry.mjs')], {
  stdio: ['ignore', 'ignore', 'inherit'],
  env: { ...env, HOST: host, PORT: String(port) },
});
server.on('exit', (code) => process.exit(code ?? 1));
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
await answers(port, host);
console.log(`Keen Lens is at http://${host.includes(':') ? `[${host}]` : host}:${port}/  (stop with Ctrl C)`);

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

/** Waits until the server answers; its first answer also sets unfinished jobs going. */
function answers(p, h) {
  return new Promise((done) => {
    const attempt = () => {
      const request = http.get(
        { host: h, port: p, path: '/api/health', headers: { host: `localhost:${p}` } },
        (answer) => {
          answer.resume();
          answer.on('end', done);
        },
      );
      request.on('error', () => setTimeout(attempt, 50));
    };
    attempt();
  });
}
