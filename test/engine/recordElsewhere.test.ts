import { expect } from 'chai';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { DEFAULT_VISITOR } from '../../src/core/load/visitors';
import { readCaptures } from '../../src/core/capture/readers';
import { VERSION } from '../../src/core/version';
import { recordPages, type RecordOptions } from '../../src/engine/record/record';
import { harFile } from '../../src/engine/record/writeHar';
import { runChromium, type RunningChromium } from '../fixtures/runningChromium';

const PAGE = `<!doctype html><html lang="en"><title>Ferns</title><h1>Ferns</h1><script>navigator.serviceWorker.register('/worker.js'); navigator.serviceWorker.ready.then(() => fetch('/registered'));</script></html>`;

describe('engine/record: a browser that runs already, and service workers', () => {
  let site: http.Server;
  let url = '';
  let browser: RunningChromium;
  let address = '';
  before(async () => {
    site = http.createServer((request, response) => {
      const script = request.url === '/worker.js';
      response.writeHead(200, { 'content-type': script ? 'text/javascript' : 'text/html' });
      response.end(script ? 'self.addEventListener("fetch", () => {});' : PAGE);
    });
    await new Promise<void>((done) => site.listen(0, '127.0.0.1', done));
    url = `http://127.0.0.1:${(site.address() as AddressInfo).port}/`;
    browser = await runChromium();
    ({ address } = browser);
  });
  after(async () => {
    await browser.end();
    site.close();
  });
  const record = async (more: Partial<RecordOptions>) => {
    const pages = await recordPages([url], {
      tabMs: 0,
      visitor: DEFAULT_VISITOR,
      allowPrivate: true,
      waitMs: 300,
      ...more,
    });
    return readCaptures(Buffer.from(harFile(pages, VERSION)))[0]?.capture;
  };
  const fault = (more: Partial<RecordOptions>) =>
    record(more).then(
      () => '',
      (error: Error) => error.message,
    );

  it('records in it with a profile of its own, and lets it run on', async () => {
    const capture = await record({ browser: address });
    expect(capture?.title).to.equal('Ferns');
    expect(capture?.measured.lcpMs).to.be.above(0);
    expect(capture?.conditions.screenWidth).to.equal(DEFAULT_VISITOR.screenWidth);
    expect(capture?.notes.join('\n')).to.contain('Recorded in a browser that was running already.');
    const tabs = await fetch(`${address.replace(/^ws/, 'http').replace(/\/devtools.*/, '')}/json/list`);
    expect(((await tabs.json()) as { url: string }[]).some((t) => t.url === url)).to.equal(false);
  });

  it('says what such a browser cannot do, and that it is not there', async () => {
    expect(await fault({ browser: address, allowPrivate: false })).to.contain('--allow-private');
    expect(await fault({ browser: address, mapHosts: ['a.example=127.0.0.1'] })).to.contain('looks up names by itself');
    expect(await fault({ browser: 'the other one' })).to.contain('is no debugging address');
    expect(await fault({ browser: 'ws://127.0.0.1:9/devtools' })).to.contain('The browser could not be used');
  });

  it('lets pages install service workers on wish alone', async () => {
    const urls = async (serviceWorkers: 'on' | 'off') =>
      (await record({ serviceWorkers, browser: address }))?.loads.map((l) => new URL(l.url).pathname);
    expect(await urls('off')).not.to.include('/registered');
    expect(await urls('on')).to.include('/registered');
  });
});
