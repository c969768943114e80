import fs from 'node:fs/promises';
import http from 'node:http';
import http2 from 'node:http2';
import https from 'node:https';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import zlib from 'node:zlib';
import { generate } from 'selfsigned';
import { siteFiles } from './files';
import { HOSTS, hostMap, type DemoHost } from './hosts';
import { PAGES, type DemoPage } from './pages';
import { makePictures } from './pictures';

/** A running stand-in site. */
export interface DemoSite {
  readonly ports: { readonly http: number; readonly https: number };
  /** For the recorder's `mapHosts`. */
  readonly map: readonly string[];
  close(): Promise<void>;
}

interface Answer {
  readonly status: number;
  readonly headers: Record<string, string>;
  readonly body: Buffer;
  readonly page: boolean;
}

type Request = http.IncomingMessage | http2.Http2ServerRequest;
type Response = http.ServerResponse | http2.Http2ServerResponse;

/** Starts all hosts. Ports 80 and 443 where allowed, else 8080 and 8443. */
export async function serveDemo(pictures: string): Promise<DemoSite> {
  const folder = await makePictures(pictures);
  const names = HOSTS.map((h) => h.name);
  const certificate = await generate([{ name: 'commonName', value: 'fernhollow.example' }], {
    keySize: 2048,
    algorithm: 'sha256',
    extensions: [{ name: 'subjectAltName', altNames: names.map((value) => ({ type: 2 as const, value })) }],
  });
  const tls = { key: certificate.private, cert: certificate.cert };
  const files = siteFiles();
  const answer = (host: DemoHost, secure: boolean, url: string) => respond(host, secure, url, files, folder);
  const ports = (await canBind(80)) ? { http: 80, https: 443 } : { http: 8080, https: 8443 };
  const closers: (() => Promise<void>)[] = [];
  for (const host of HOSTS) {
    const handler = (secure: boolean) => (request: Request, response: Response) =>
      void handle(host, secure, request, response, answer);
    const plain = http.createServer(handler(false));
    const safe =
      host.protocol === 'h2'
        ? http2.createSecureServer({ ...tls, allowHTTP1: true }, handler(true))
        : https.createServer(tls, handler(true));
    await Promise.all([listen(plain, ports.http, host.address), listen(safe, ports.https, host.address)]);
    closers.push(
      () => close(plain),
      () => close(safe),
    );
  }
  return {
    ports,
    map: hostMap(ports),
    close: async () => {
      await Promise.all(closers.map((c) => c()));
    },
  };
}

/** Compressed once a file: a busy server would spoil the recording. */
const zipped = new WeakMap<Buffer, Buffer>();

async function handle(
  host: DemoHost,
  secure: boolean,
  request: Request,
  response: Response,
  answer: (host: DemoHost, secure: boolean, url: string) => Promise<Answer>,
): Promise<void> {
  const given = await answer(host, secure, request.url ?? '/').catch((): Answer => ({
    status: 404,
    headers: { 'content-type': 'text/plain' },
    body: Buffer.from('Not here.'),
    page: true,
  }));
  let body = given.body;
  const headers: Record<string, string> = { ...given.headers };
  const text = /text|javascript|svg/.test(headers['content-type'] ?? '');
  const heavy = /\/(frame\.css|kit\.js)$/.test(request.url ?? '');
  if (host.compresses && text && !heavy && /gzip/.test(String(request.headers['accept-encoding']))) {
    body = zipped.get(body) ?? zlib.gzipSync(body);
    zipped.set(given.body, body);
    headers['content-encoding'] = 'gzip';
  }
  headers['content-length'] = String(body.length);
  await new Promise((done) => setTimeout(done, given.page ? host.pageMs : host.fileMs));
  response.writeHead(given.status, headers);
  response.end(request.method === 'HEAD' ? '' : (body as never));
}

async function respond(
  host: DemoHost,
  secure: boolean,
  url: string,
  files: ReturnType<typeof siteFiles>,
  folder: string,
): Promise<Answer> {
  const at = url.split('?')[0] ?? '/';
  const redirect = (status: number, location: string): Answer => ({
    status,
    headers: { location },
    body: Buffer.alloc(0),
    page: true,
  });
  // Two hops, both temporary, on the way in: the bare name first, then https.
  if (host.name === 'fernhollow.example') return redirect(302, `http://www.fernhollow.example${at}`);
  if (!secure && host.name === 'www.fernhollow.example') return redirect(302, `https://www.fernhollow.example${at}`);
  if (at.startsWith('/old/')) return redirect(301, `https://media.fernhollow.example/p/${at.slice(5)}`);
  if (at === '/widget/')
    return {
      status: 200,
      headers: { 'content-type': 'text/html; charset=utf-8' },
      body: Buffer.from('<p>Map of the lanes</p>'),
      page: true,
    };
  const site = host.name.startsWith('tickets.') ? 'tickets' : host.name.startsWith('www.') ? 'www' : undefined;
  const page = PAGES.find((p) => p.path === at && p.host === site);
  if (page) {
    return {
      status: 200,
      headers: { 'content-type': 'text/html; charset=utf-8', 'cache-control': 'no-cache' },
      body: pageBody(page),
      page: true,
    };
  }
  const cache = site === 'tickets' ? 'no-cache' : 'public, max-age=86400';
  const file = files.get(at);
  const cors = { 'access-control-allow-origin': '*', 'cache-control': cache };
  if (file) return { status: 200, headers: { ...cors, 'content-type': file.type }, body: file.body, page: false };
  const picture = /^\/p\/([a-z0-9-]+\.jpg)$/.exec(at)?.[1];
  if (picture) {
    return {
      status: 200,
      headers: { ...cors, 'content-type': 'image/jpeg' },
      body: await fs.readFile(path.join(folder, picture)),
      page: false,
    };
  }
  return { status: 404, headers: { 'content-type': 'text/html' }, body: Buffer.from('<h1>Not found</h1>'), page: true };
}

const pageBodies = new Map<DemoPage, Buffer>();

function pageBody(page: DemoPage): Buffer {
  const body = pageBodies.get(page) ?? Buffer.from(page.html);
  pageBodies.set(page, body);
  return body;
}

function canBind(port: number): Promise<boolean> {
  return new Promise((done) => {
    const probe = http.createServer();
    probe.once('error', () => done(false));
    probe.listen(port, HOSTS[0]?.address ?? '127.0.0.1', () => probe.close(() => done(true)));
  });
}

type AnyServer = http.Server | https.Server | http2.Http2SecureServer;

function listen(server: AnyServer, port: number, address: string): Promise<void> {
  return new Promise((done, fail) => {
    server.once('error', (error: NodeJS.ErrnoException) => {
      fail(
        error.code === 'EADDRINUSE'
          ? new Error(`${address}:${port} is in use: is the stand-in site running already?`)
          : error,
      );
    });
    server.listen(port, address, () => done());
  });
}

function close(server: AnyServer): Promise<void> {
  if ('closeAllConnections' in server) server.closeAllConnections();
  return new Promise((done) => {
    server.close(() => done());
    // HTTP/2 sessions keep a server open until they end by themselves.
    setTimeout(done, 50).unref();
  });
}

/** Where pictures are kept between runs. */
export const PICTURE_CACHE = path.join(path.dirname(fileURLToPath(import.meta.url)), '../../.cache/demo-pictures');

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const site = await serveDemo(PICTURE_CACHE);
  console.log('Fernhollow Botanic Garden is up. Record a page of it with:\n');
  console.log(
    `  npx keen-lens record https://www.fernhollow.example/glasshouse/ -o glasshouse.har --accept-any-certificate --allow-private \\`,
  );
  console.log(`    ${site.map.map((m) => `--map-host ${m}`).join(' \\\n    ')}`);
  console.log('\nPages: ' + PAGES.map((p) => `https://${p.host}.fernhollow.example${p.path}`).join('  '));
  console.log('Stop with Ctrl C.');
  process.on('SIGINT', () => void site.close().then(() => process.exit(0)));
}
