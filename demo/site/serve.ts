import fs from 'node:fs/promises';
import http from 'node:http';
import http2 from 'node:http2';
import https from 'node:https';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import zlib from 'node:zlib';
import { generate } from 'selfsigned';
import { asItWas } from './before';
import { Catalogue } from './catalogue';
import { siteFiles } from './files';
import { HOSTS, hostMap, WWW, type DemoHost } from './hosts';
import { Maze, type MazeAnswer } from './maze';
import { asInMonth, COMPRESSED_UNTIL, pagesIn, type Month } from './months';
import { PAGES, type DemoPage } from './pages';
import { makePictures } from './pictures';

/** A running stand-in site. */
export interface DemoSite {
  readonly ports: { readonly http: number; readonly https: number };
  /** For the recorder's `mapHosts`. */
  readonly map: readonly string[];
  /** The enlargement, when there is one. */
  readonly catalogue?: Catalogue;
  close(): Promise<void>;
}

/** How much the site is enlarged. */
export interface DemoOptions {
  /** Pages of the main host in all that answer 200; the garden's own are among them. */
  readonly pages?: number;
  /** Addresses and answers without end, under `/maze/`. */
  readonly traps?: boolean;
  /** Certificate of all hosts; one of its own making otherwise. */
  readonly tls?: { readonly key: string; readonly cert: string };
  /** The garden as it was three weeks before (before.ts). */
  readonly before?: boolean;
  /** The garden as it was on a day of the year before (months.ts): the pages of that day. */
  readonly month?: Month;
}

interface Answer {
  readonly status: number;
  readonly headers: Record<string, string>;
  readonly body: Buffer;
  readonly page: boolean;
  /** No think time, so that a crawl is measured and not the wait. */
  readonly atOnce?: boolean;
}

type Request = http.IncomingMessage | http2.Http2ServerRequest;
type Response = http.ServerResponse | http2.Http2ServerResponse;

/** Starts all hosts. Ports 80 and 443 where allowed, else 8080 and 8443. */
export async function serveDemo(pictures: string, options: DemoOptions = {}): Promise<DemoSite> {
  const folder = await makePictures(pictures);
  const pages = pagesOf(options);
  const own = PAGES.filter((p) => p.host === 'www').length;
  const catalogue = options.pages ? new Catalogue(options.pages - own) : undefined;
  const maze = options.traps ? new Maze() : undefined;
  const names = HOSTS.map((h) => h.name);
  const tls = options.tls ?? (await ownCertificate(names));
  const files = siteFiles();
  const compressesAll = options.month !== undefined && options.month < COMPRESSED_UNTIL;
  const answer = (host: DemoHost, secure: boolean, url: string) => {
    const main = secure && host.name.startsWith('www.');
    const more = main ? extras(url, catalogue, maze) : undefined;
    return more ? Promise.resolve(more) : respond(host, secure, url, files, folder, pages);
  };
  const ports = (await canBind(80)) ? { http: 80, https: 443 } : { http: 8080, https: 8443 };
  const closers: (() => Promise<void>)[] = [];
  for (const host of HOSTS) {
    const handler = (secure: boolean) => (request: Request, response: Response) =>
      void handle({ host, secure, request, response, answer, maze, compressesAll });
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
    catalogue,
    close: async () => {
      await Promise.all(closers.map((c) => c()));
    },
  };
}

function pagesOf({ before, month }: DemoOptions): readonly DemoPage[] {
  if (month) return PAGES.filter((p) => pagesIn(month).includes(p.path)).map((p) => asInMonth(p, month));
  return before ? PAGES.map(asItWas) : PAGES;
}

async function ownCertificate(names: readonly string[]): Promise<{ key: string; cert: string }> {
  const made = await generate([{ name: 'commonName', value: 'fernhollow.example' }], {
    keySize: 2048,
    algorithm: 'sha256',
    extensions: [{ name: 'subjectAltName', altNames: names.map((value) => ({ type: 2 as const, value })) }],
  });
  return { key: made.private, cert: made.cert };
}

/** Compressed once a file: a busy server would spoil the recording. */
const zipped = new WeakMap<Buffer, Buffer>();

interface Asked {
  readonly host: DemoHost;
  readonly secure: boolean;
  readonly request: Request;
  readonly response: Response;
  readonly answer: (host: DemoHost, secure: boolean, url: string) => Promise<Answer>;
  readonly maze: Maze | undefined;
  /** Also the large text files, which are sent as they are otherwise. */
  readonly compressesAll: boolean;
}

async function handle({ host, secure, request, response, answer, maze, compressesAll }: Asked): Promise<void> {
  const trap = secure ? maze?.answer(request.url ?? '/') : undefined;
  if (trap) return spring(trap, response);
  const given = await answer(host, secure, request.url ?? '/').catch((): Answer => ({
    status: 404,
    headers: { 'content-type': 'text/plain' },
    body: Buffer.from('Not here.'),
    page: true,
  }));
  let body = given.body;
  const headers: Record<string, string> = { ...given.headers };
  const text = /text|javascript|svg/.test(headers['content-type'] ?? '');
  const heavy = !compressesAll && /\/(frame\.css|kit\.js|atlas\.js|tour\.js)$/.test(request.url ?? '');
  if (host.compresses && text && !heavy && /gzip/.test(String(request.headers['accept-encoding']))) {
    body = zipped.get(body) ?? zlib.gzipSync(body);
    zipped.set(given.body, body);
    headers['content-encoding'] = 'gzip';
  }
  headers['content-length'] = String(body.length);
  if (!given.atOnce) await new Promise((done) => setTimeout(done, given.page ? host.pageMs : host.fileMs));
  response.writeHead(given.status, headers);
  response.end(request.method === 'HEAD' ? '' : (body as never));
}

/** Answers as a trap does. */
function spring(trap: MazeAnswer, response: Response): void {
  if (trap.broken) {
    response.socket?.destroy();
    return;
  }
  response.writeHead(trap.status, { ...trap.headers });
  if (!trap.endless) {
    response.end(trap.body as never);
    return;
  }
  const write = response.write.bind(response) as (chunk: Buffer) => boolean;
  write(trap.body);
  const more = setInterval(() => write(Buffer.alloc(1024, 0x20)), 50);
  response.once('close', () => clearInterval(more));
}

const bodies = new WeakMap<object, Buffer>();

/** What the main host says of itself: robots.txt, sitemaps, and the catalogue with the way to it. */
function extras(url: string, catalogue: Catalogue | undefined, maze: Maze | undefined): Answer | undefined {
  const at = url.split('?')[0] ?? '/';
  const send = (type: string, body: string | Buffer): Answer => ({
    status: 200,
    headers: { 'content-type': type, 'cache-control': 'no-cache' },
    body: Buffer.from(body),
    page: true,
    atOnce: true,
  });
  if (at === '/robots.txt')
    return send('text/plain', `User-agent: *\nDisallow: /private/\nSitemap: ${WWW}/sitemap-index.xml\n`);
  if (at === '/sitemap-index.xml')
    return send(
      'application/xml',
      `<?xml version="1.0" encoding="UTF-8"?>\n<sitemapindex xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">\n  <sitemap><loc>${WWW}/sitemap-garden.xml</loc></sitemap>\n${catalogue ? `  <sitemap><loc>${WWW}/sitemap-plants.xml.gz</loc></sitemap>\n` : ''}</sitemapindex>\n`,
    );
  if (at === '/sitemap-garden.xml')
    return send('application/xml', urlset(PAGES.filter((p) => p.host === 'www').map((p) => WWW + p.path)));
  if (!catalogue && !maze) return undefined;
  if (at === '/sitemap-plants.xml.gz' && catalogue)
    return send('application/gzip', zlib.gzipSync(urlset(catalogue.sitemapPages())));
  if (at === '/') {
    const home = PAGES[0] as DemoPage;
    const ways = `${catalogue ? '<a href="/plants/">All our plants</a> ' : ''}${maze ? '<a href="/maze/">The maze</a>' : ''}`;
    const html = home.html.replace('</main>', `  <p>${ways}</p>\n  </main>`);
    return { ...send('text/html; charset=utf-8', html) };
  }
  const page = catalogue?.answer(at);
  if (!page) return undefined;
  const body = bodies.get(page) ?? Buffer.from(page.body);
  bodies.set(page, body);
  return {
    status: page.status,
    headers: {
      'content-type': page.type,
      'cache-control': 'no-cache',
      ...(page.location ? { location: page.location } : {}),
    },
    body,
    page: true,
    atOnce: true,
  };
}

const urlset = (urls: readonly string[]) =>
  `<?xml version="1.0" encoding="UTF-8"?>\n<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">\n${urls.map((u) => `  <url><loc>${u}</loc></url>`).join('\n')}\n</urlset>\n`;

async function respond(
  host: DemoHost,
  secure: boolean,
  url: string,
  files: ReturnType<typeof siteFiles>,
  folder: string,
  pages: readonly DemoPage[],
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
  const page = pages.find((p) => p.path === at && p.host === site);
  if (page) {
    return {
      status: 200,
      headers: {
        'content-type': 'text/html; charset=utf-8',
        'cache-control': 'no-cache',
        // The main host holds browsers to https for a day; the shop not at all, and its basket travels with http too.
        ...(site === 'tickets'
          ? { 'set-cookie': 'basket=0; Path=/; HttpOnly; SameSite=Lax' }
          : { 'strict-transport-security': 'max-age=86400' }),
      },
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
  const { values } = parseArgs({ options: { pages: { type: 'string' }, traps: { type: 'boolean' } } });
  const pages = values.pages === undefined ? undefined : Number(values.pages);
  if (pages !== undefined && !(Number.isInteger(pages) && pages >= 100 && pages <= 200_000)) {
    console.error('--pages takes a number from 100 to 200000.');
    process.exit(2);
  }
  const site = await serveDemo(PICTURE_CACHE, { pages, traps: values.traps });
  console.log('Fernhollow Botanic Garden is up. Record a page of it with:\n');
  console.log(
    `  npx keen-lens record https://www.fernhollow.example/glasshouse/ -o glasshouse.har --accept-any-certificate --allow-private \\`,
  );
  console.log(`    ${site.map.map((m) => `--map-host ${m}`).join(' \\\n    ')}`);
  console.log('\nPages: ' + PAGES.map((p) => `https://${p.host}.fernhollow.example${p.path}`).join('  '));
  if (pages) console.log(`With the plant catalogue: ${pages} pages on www.fernhollow.example, from /plants/.`);
  console.log('Sweep all of it:\n');
  console.log(
    `  npx keen-lens sweep https://www.fernhollow.example/ --accept-any-certificate --preset own-server --max-pages 20000 \\`,
  );
  console.log(`    ${site.map.map((m) => `--map-host ${m}`).join(' \\\n    ')}`);
  console.log('Stop with Ctrl C.');
  process.on('SIGINT', () => void site.close().then(() => process.exit(0)));
}
