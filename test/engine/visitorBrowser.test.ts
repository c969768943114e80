import { expect } from 'chai';
import fs from 'node:fs';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import os from 'node:os';
import { browserSwitches, findChromium } from '../../src/engine/record/chromium';
import { startVisitorBrowser } from '../../src/engine/record/visitorBrowser';

const OTHER = 'http://growers.mossbank.example';

describe('engine/record/visitorBrowser', () => {
  /** Both hosts; counts connections to each by the port that a browser is sent to. */
  const serve = async (answer: http.RequestListener) => {
    let connections = 0;
    const server = http.createServer(answer).on('connection', () => connections++);
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    return {
      port: (server.address() as AddressInfo).port,
      connections: () => connections,
      close: () => (server.closeAllConnections(), server.close()),
    };
  };

  it('uses a connection that a preconnect has opened to a host of another site, as most visitors’ browsers do', async () => {
    const other = await serve((_, response) => response.writeHead(200, { 'content-type': 'text/javascript' }).end());
    let opened: () => void = () => undefined;
    const connected = new Promise<void>((done) => (opened = done));
    const site = await serve((request, response) => {
      if (request.url !== '/') return void response.writeHead(404).end();
      response.writeHead(200, { 'content-type': 'text/html' });
      response.write(`<!doctype html><title>Fern</title><link rel="preconnect" href="${OTHER}"><p>${' '.repeat(2000)}`);
      // The script is named once the connection stands.
      void connected.then(() => response.end(`<script src="${OTHER}/a.js"></script>`));
    });
    const watch = setInterval(() => other.connections() > 0 && opened(), 20);
    const before = profiles();
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
      clearInterval(watch);
      await visitor.close();
      site.close();
      other.close();
    }
    expect(profiles(), 'profiles left').to.deep.equal(before);
  });

  const profiles = () => fs.readdirSync(os.tmpdir()).filter((name) => name.startsWith('keen-lens-visitor-'));
});
