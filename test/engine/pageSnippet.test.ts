import { expect } from 'chai';
import fs from 'node:fs/promises';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import zlib from 'node:zlib';
import { readCaptures } from '../../src/core/capture/readers';
import type { Capture } from '../../src/core/capture/capture';
import { PAGE_SNIPPET } from '../../src/engine/record/pageSnippet';
import { hasFirefox, TestFirefox } from '../fixtures/firefox';
import { startBrowser } from '../fixtures/server';

const PNG = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);
/** A page that names form fields like what the snippet uses: that must not mislead it. */
const PAGE = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Beds</title><link rel="stylesheet" href="/site.css"><script src="/head.js"></script></head><body><h1>Fern beds</h1><form><input name="parentElement"><input name="localName"></form><img src="/fern.png" alt="" width="300" height="200"></body></html>`;

/** Saves what would be downloaded, and gives its text. */
const KEPT = `(async () => {
  let saved;
  const make = URL.createObjectURL;
  URL.createObjectURL = (blob) => { saved = blob; return make.call(URL, blob); };
  await ${PAGE_SNIPPET};
  return saved.text();
})()`;

describe('engine/record/pageSnippet', function () {
  let site: http.Server;
  let url = '';
  let asked: string[] = [];
  before(async () => {
    site = http.createServer((request, response) => {
      asked.push(request.url ?? '');
      const send = (type: string, body: string | Buffer, more: http.OutgoingHttpHeaders = {}) =>
        response.writeHead(200, { 'content-type': type, 'cache-control': 'max-age=600', ...more }).end(body);
      if (request.url === '/site.css') return send('text/css', 'h1{color:#040}'.repeat(400));
      if (request.url === '/head.js')
        return send('text/javascript', zlib.gzipSync('var kept = 1;'.repeat(4000)), { 'content-encoding': 'gzip' });
      if (request.url === '/fern.png') return send('image/png', PNG);
      if (request.url === '/favicon.ico') return response.writeHead(404).end();
      return send('text/html; charset=utf-8', PAGE, { 'server-timing': 'db;dur=12' });
    });
    await new Promise<void>((done) => site.listen(0, '127.0.0.1', done));
    url = `http://127.0.0.1:${(site.address() as AddressInfo).port}/beds/`;
  });
  beforeEach(() => (asked = []));
  after(() => site.close());

  const check = (bytes: Uint8Array): Capture => {
    const [read] = readCaptures(bytes, 'beds.page.json');
    const { capture, bodies } = read as NonNullable<typeof read>;
    expect(capture).to.include({ page: url, title: 'Beds' });
    expect(capture.measured.fcpMs).to.be.above(0);
    expect(capture.measured.loadMs).to.be.above(0);
    const load = (end: string) => capture.loads.find((l) => l.url.endsWith(end));
    expect(load('/site.css')).to.include({ kind: 'style', decodedBytes: 5600 });
    expect(load('/head.js')).to.include({ kind: 'script', decodedBytes: 52_000 });
    expect(load('/head.js')?.bodyBytes).to.be.below(1000);
    expect(load('/fern.png')).to.include({ kind: 'image' });
    expect(Buffer.from(bodies.get(capture.documentIndex) ?? []).toString()).to.equal(PAGE);
    expect(Buffer.from(bodies.get(load('/site.css')?.index ?? -1) ?? []).toString()).to.contain('color:#040');
    const picture = capture.observations?.pictures.find((p) => p.url.endsWith('/fern.png'));
    expect(picture).to.deep.include({ use: 'img', visible: true, naturalWidth: 1 });
    expect(picture?.box).to.include({ width: 300, height: 200 });
    expect(capture.observations?.renderedHtml).to.contain('Fern beds');
    // Sources come from the cache: the server is asked for each file once.
    expect(asked.filter((a) => a !== '/favicon.ico').sort()).to.deep.equal([
      '/beds/',
      '/fern.png',
      '/head.js',
      '/site.css',
    ]);
    return capture;
  };

  it('saves a file in Chromium that is read like a recording, and asks the server for nothing', async () => {
    const browser = await startBrowser();
    try {
      const page = await browser.newPage();
      await page.goto(url);
      const download = page.waitForEvent('download');
      expect(await page.evaluate(PAGE_SNIPPET)).to.match(/^Keen Lens: saved .*\.page\.json with \d loads\.$/);
      const capture = check(await fs.readFile(await (await download).path()));
      expect(capture.observations?.largestPaints.length).to.be.above(0);
      expect(capture.loads.find((l) => l.url.endsWith('/site.css'))).to.include({ renderBlocking: true });
      expect(capture.measured.lcpMs).to.be.above(0);
      const document = capture.loads[capture.documentIndex];
      expect(document?.responseHeaders.find((h) => h.name === 'server-timing')?.value).to.contain('db;dur=12');
    } finally {
      await browser.close();
    }
  });

  it('saves a file in Firefox', async function () {
    if (!hasFirefox) return this.skip();
    const firefox = await TestFirefox.start();
    try {
      check(Buffer.from(await firefox.run(url, KEPT)));
    } finally {
      await firefox.stop();
    }
  });
});
