import { expect } from 'chai';
import fs from 'node:fs';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { browserSwitches, findChromium } from '../../src/engine/record/chromium';
import { startVisitorBrowser } from '../../src/engine/record/visitorBrowser';
import { tempFolder } from '../fixtures/temp';

const OTHER = 'http://growers.mossbank.example';

describe('engine/record/visitorBrowser', () => {
  const own = tempFolder('visitor');
  after(() => own.remove());

  /** Both hosts; counts connections to each by the port that a browser is sent to. */
  const serve = async (answer: http.RequestListener) => {
    let connections = 0;
    let first: () => void = () => undefined;
    const connected = new Promise<void>((done) => (first = done));
    const server = http.createServer(answer).on('connection', () => (connections++, first()));
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    return {
      port: (server.address() as AddressInfo).port,
      connected,
      connections: () => connections,
      close: () => (server.closeAllConnections(), server.close()),
    };
  };

  it('uses a connection that a preconnect has opened to a host of another site, as most visitors’ browsers do', async () => {
    const other = await serve((_, response) => response.writeHead(200, { 'content-type': 'text/javascript' }).end());
    const site = await serve((request, response) => {
      if (request.url !== '/') return void response.writeHead(404).end();
      response.writeHead(200, { 'content-type': 'text/html' });
      response.write(`<!doctype html><title>Fern</title><link rel="preconnect" href="${OTHER}"><p>${' '.repeat(2000)}`);
      // The script is named once the connection stands.
      void other.connected.then(() => response.end(`<script src="${OTHER}/a.js"></script>`));
    });
    const kept = process.env.TMPDIR;
    process.env.TMPDIR = own.folder;
    const visitor = await startVisitorBrowser({
      executablePath: findChromium(),
      args: browserSwitches([
        `www.fernhollow.example=127.0.0.1:${site.port}`,
        `growers.mossbank.example=127.0.0.1:${other.port}`,
      ]),
    });
    try {
      const page = await visitor.context.newPage();
      const answered = page.waitForResponse(`${OTHER}/a.js`);
      await page.goto('http://www.fernhollow.example/');
      expect((await answered).status()).to.equal(200);
      expect(other.connections()).to.equal(1);
    } finally {
      await visitor.close();
      if (kept === undefined) delete process.env.TMPDIR;
      else process.env.TMPDIR = kept;
      site.close();
      other.close();
    }
    expect(
      fs.readdirSync(own.folder).filter((name) => name.startsWith('keen-lens-')),
      'left behind',
    ).to.deep.equal([]);
  });
});
