import { expect } from 'chai';
import { createHash, createPublicKey } from 'node:crypto';
import http2 from 'node:http2';
import type { AddressInfo } from 'node:net';
import { generate } from 'selfsigned';
import { readHar } from '../../src/core/capture/har';
import { DEFAULT_VISITOR } from '../../src/core/load/visitors';
import { recordPages } from '../../src/engine/record/record';
import { harFile } from '../../src/engine/record/writeHar';
import { sendEarlyHints } from '../../src/engine/replay/earlyHints';
import { runChromium, type RunningChromium } from '../fixtures/runningChromium';

const STYLE = `h1{color:green}${'/* ferns */'.repeat(500)}`;
const FILES: Readonly<Record<string, readonly [type: string, body: string]>> = {
  '/': ['text/html', '<!doctype html><title>Ferns</title><link rel="stylesheet" href="/a.css"><h1>Ferns</h1>'],
  '/a.css': ['text/css', STYLE],
};

describe('engine/record: Early Hints', () => {
  let server: http2.Http2SecureServer;
  let browser: RunningChromium;
  const asked: string[] = [];
  before(async () => {
    const made = await generate([{ name: 'commonName', value: '127.0.0.1' }], {
      keySize: 2048,
      algorithm: 'sha256',
      extensions: [{ name: 'subjectAltName', altNames: [{ type: 7, ip: '127.0.0.1' }] }],
    });
    server = http2.createSecureServer({ key: made.private, cert: made.cert }, ({ url }, { stream }) => {
      asked.push(url);
      const [type, body] = FILES[url] ?? [];
      if (type === undefined) return stream.respond({ ':status': 404 }, { endStream: true });
      const answer = () => {
        stream.respond({ ':status': 200, 'content-type': type, 'cache-control': 'max-age=600' });
        stream.end(body);
      };
      if (url !== '/') return answer();
      // The page itself is not there before the browser has asked for what the hints name.
      sendEarlyHints(stream, {
        links: ['</a.css?token=eyJhbGciOiJIUzI1NiJ9.e30.x>; rel=preload', '</a.css>; rel=preload; as=style'],
        ms: 0,
      });
      const wait = () => (asked.includes('/a.css') ? answer() : void setImmediate(wait));
      wait();
    });
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', () => done()));
    const key = createPublicKey(made.cert).export({ type: 'spki', format: 'der' });
    const hash = createHash('sha256').update(key).digest('base64');
    browser = await runChromium([`--ignore-certificate-errors-spki-list=${hash}`]);
  });
  after(async () => {
    await browser.end();
    server.close();
  });

  it('tells what they named, when they came, and which files they brought with which sizes', async () => {
    const url = `https://127.0.0.1:${(server.address() as AddressInfo).port}/`;
    const options = { tabMs: 0, visitor: DEFAULT_VISITOR, allowPrivate: true, browser: browser.address, waitMs: 300 };
    const pages = await recordPages([url], options);
    const [read] = readHar(Buffer.from(harFile(pages, 'test')));
    const [document, style] = read?.capture.loads ?? [];
    expect(document?.earlyHints?.links.join()).to.contain('</a.css>; rel=preload; as=style');
    expect(document?.earlyHints?.ms).to.be.within(0, document?.timings.waitMs ?? 0);
    expect(style?.url).to.match(/a\.css$/);
    expect(style?.fromEarlyHints).to.equal(true);
    expect(style?.bodyBytes).to.equal(STYLE.length);
    expect(asked.filter((a) => a === '/a.css')).to.have.lengthOf(1);
    expect(read?.capture.measured.ttfbMs, 'of the page, not of the hints').to.be.at.least(
      (document?.startMs ?? 0) + (document?.timings.waitMs ?? 0) - 1,
    );
  });
});
