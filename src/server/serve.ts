// The server of the built application: the gate, then files and pages.
import compression from 'compression';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import sirv from 'sirv';
import { log } from '../engine/log';
import { dataFolder, projectRoot } from '../engine/store/store';
import { accountsIn } from './access/accountsExist';
import { ADDRESS_HEADER, Gate, SAFE_HEADERS } from './gate';
import { WARM_UP, warmUp } from './warmUp';

type Handler = (request: http.IncomingMessage, response: http.ServerResponse) => void | Promise<void>;

process.env.NODE_ENV ??= 'production';
process.env.ASTRO_NODE_AUTOSTART = 'disabled';
process.env.KEEN_LENS_GATED = '1';
const entry = pathToFileURL(path.join(projectRoot(), 'dist/server/entry.mjs')).href;
const { handler } = (await import(entry)) as { handler: Handler };
/** What the build has made, compressed there already; what is named by its content never changes. */
const files = sirv(path.join(projectRoot(), 'dist/client'), {
  brotli: true,
  gzip: true,
  etag: true,
  setHeaders: (response, file) =>
    response.setHeader(
      'cache-control',
      file.startsWith('/_astro/') ? 'public, max-age=31536000, immutable' : 'no-cache',
    ),
});
/** Compresses pages and answers above a kilobyte. Progress that comes line by line must not wait in a buffer. */
const compress = compression({
  threshold: 1024,
  filter: (_, response) =>
    /^(text\/(html|plain|csv|css|markdown)|application\/([\w.-]+\+)?json|image\/svg)/.test(
      String(response.getHeader('content-type')),
    ),
}) as unknown as (request: http.IncomingMessage, response: http.ServerResponse, next: () => void) => void;
const gate = new Gate(process.env.KEEN_LENS_PASSWORD || undefined, Date.now, accountsIn(dataFolder()));

/** So long after the last request nobody is taken to be waiting for the next, in ms. */
const QUIET_MS = 500;
let askedAt = 0;

const server = http.createServer((request, response) => {
  if (request.headers['user-agent'] !== WARM_UP) askedAt = Date.now();
  request.headers[ADDRESS_HEADER] = request.socket.remoteAddress ?? '';
  const refused = gate.check({
    method: request.method ?? 'GET',
    path: (request.url ?? '/').replace(/[?#].*$/s, ''),
    header: (name) => {
      const value = request.headers[name];
      return Array.isArray(value) ? value.join(', ') : value;
    },
    address: request.socket.remoteAddress ?? '',
  });
  if (refused) {
    response.writeHead(refused.status, refused.headers).end(refused.text);
    return;
  }
  if (!['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS'].includes(request.method ?? '')) {
    response.writeHead(405, { allow: 'GET, HEAD, POST, PUT, PATCH, DELETE' }).end('This method is not served.');
    return;
  }
  for (const [name, value] of Object.entries(SAFE_HEADERS)) response.setHeader(name, value);
  files(request, response, () => compress(request, response, () => void handler(request, response)));
});
server.on('error', (error) => {
  log.error({ err: error }, 'the server cannot listen');
  process.exit(1);
});
const host = process.env.HOST || '127.0.0.1';
// Whoever started this process with a channel to it hears when it listens, and takes it along when it ends.
server.listen(Number(process.env.PORT || 4270), host, () => {
  process.send?.('listening');
  const { port } = server.address() as AddressInfo;
  const own = /^(0\.0\.0\.0|::)$/.test(host) ? '127.0.0.1' : host;
  void warmUp(`http://${own.includes(':') ? `[${own}]` : own}:${port}`, () => Date.now() - askedAt > QUIET_MS);
});
if (process.send) process.once('disconnect', () => process.exit(0));
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => {
    server.closeAllConnections();
    process.exit(0);
  });
