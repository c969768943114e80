import { expect } from 'chai';
import http from 'node:http';
import net, { type AddressInfo } from 'node:net';
import { chromium } from 'playwright-core';
import { InputError } from '../../src/core/capture/errors';
import { ownOrigins } from '../../src/core/site/ownOrigin';
import { FilterProxy, REFUSED_BY_GUARD } from '../../src/engine/net/filterProxy';
import { Guard, isThisMachine, RefusedAddressError, type GuardOptions } from '../../src/engine/net/guard';
import { mappedHost, readHostMap } from '../../src/engine/net/hostMap';
import { browserSwitches, findChromium } from '../../src/engine/record/chromium';

const guard = (more: Partial<GuardOptions> = {}) => new Guard({ allowPrivate: false, mapHosts: [], ...more });
const refused = async (g: Guard, host: string, port = 80): Promise<RefusedAddressError> => {
  const error: unknown = await g.resolve(host, port).catch((e: unknown) => e);
  expect(error, host).to.be.instanceOf(RefusedAddressError);
  return error as RefusedAddressError;
};

describe('engine/net/guard', () => {
  it('refuses private addresses, by whatever name', async () => {
    for (const host of [
      '127.0.0.1',
      'localhost',
      '[::1]',
      '::ffff:10.0.0.1',
      '192.168.1.1',
      '169.254.169.254',
      '0.0.0.0',
    ])
      expect((await refused(guard(), host)).own).to.equal(false);
  });

  it('lets pass what is public, and what was mapped on purpose', async () => {
    expect(await guard().resolve('93.184.216.34', 443)).to.deep.equal({ addresses: ['93.184.216.34'], port: 443 });
    const mapped = guard({ mapHosts: ['www.a.example:443=127.0.0.1:8443'] });
    expect(await mapped.resolve('www.a.example', 443)).to.deep.equal({ addresses: ['127.0.0.1'], port: 8443 });
    expect(await guard({ allowPrivate: true }).resolve('127.0.0.1', 80)).to.deep.equal({
      addresses: ['127.0.0.1'],
      port: 80,
    });
  });

  it('never leads to our own server, allowed or mapped', async () => {
    const g = guard({ allowPrivate: true, ownPorts: [4270], mapHosts: ['www.a.example=127.0.0.1:4270'] });
    for (const host of ['127.0.0.1', 'localhost', '[::ffff:127.0.0.1]', 'www.a.example'])
      expect((await refused(g, host, 4270)).own, host).to.equal(true);
    expect((await g.resolve('127.0.0.1', 4271)).port).to.equal(4271);
    expect(isThisMachine('127.9.9.9')).to.equal(true);
    expect(isThisMachine('93.184.216.34')).to.equal(false);
  });

  it('reads a host map line by line', () => {
    const map = ['*.a.example=10.0.0.1', 'b.example:443=[::1]:8443'].map(readHostMap);
    expect(mappedHost(map, 'x.a.example', 80)?.toHost).to.equal('10.0.0.1');
    expect(mappedHost(map, 'a.example', 80)).to.equal(undefined);
    expect(mappedHost(map, 'B.example', 443)).to.include({ toHost: '::1', toPort: 8443 });
    expect(mappedHost(map, 'b.example', 80)).to.equal(undefined);
    const six = [readHostMap('[2001:DB8::7]:443=127.0.0.1:8443')];
    expect(mappedHost(six, '[2001:db8::7]', 443)).to.include({ toHost: '127.0.0.1', toPort: 8443 });
    expect(mappedHost(six, '[2001:db8::7]', 80)).to.equal(undefined);
    for (const line of ['x', 'a=b=c', 'a=1.2.3.4,MAP * evil', 'a b=1.2.3.4', 'a=1.2.3.4:x'])
      expect(() => readHostMap(line), line).to.throw(InputError);
  });
});

describe('core/site/ownOrigin', () => {
  const cases: [string, string, boolean][] = [
    ['https://www.a.example/x', 'https://www.a.example/y', true],
    ['https://www.a.example/', 'https://a.example/', true],
    ['https://www.a.example/', 'http://www.a.example/', false],
    ['http://www.a.example/', 'https://www.a.example/', true],
    ['http://www.a.example:8080/', 'https://www.a.example/', false],
    ['https://www.a.example/', 'https://www.a.example:8443/', false],
    ['https://www.a.example/', 'https://img.a.example/', false],
    ['https://www.a.example/', 'https://www.a.example.evil.example/', false],
    ['https://www.a.example/', 'https://www.a.example@evil.example/', false],
    ['https://www.a.example/', 'wss://www.a.example/', false],
    ['https://www.a.example/', 'nonsense', false],
  ];
  for (const [own, url, may] of cases)
    it(`${may ? 'sends' : 'does not send'} the secrets of ${own} to ${url}`, () =>
      void expect(ownOrigins([own])(url)).to.equal(may));
});

describe('engine/net/filterProxy', () => {
  let server: http.Server;
  let port = 0;
  before(async () => {
    server = http.createServer((_, response) => response.end('<!doctype html><title>Fern</title><p>garden'));
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    port = (server.address() as AddressInfo).port;
  });
  after(() => new Promise((done) => server.close(done)));

  const started: FilterProxy[] = [];
  const start = async (more: Partial<GuardOptions>) => {
    const proxy = await FilterProxy.start(guard(more));
    started.push(proxy);
    return proxy;
  };
  afterEach(async () => {
    await Promise.all(started.splice(0).map((p) => p.close()));
  });

  /** What the proxy answers to bytes, sent in pieces of a length. */
  const say = (proxy: FilterProxy, bytes: Buffer, piece = bytes.length): Promise<Buffer> =>
    new Promise((done) => {
      const socket = net.connect(proxy.port, '127.0.0.1');
      const got: Buffer[] = [];
      socket.on('data', (d) => got.push(d));
      socket.on('close', () => done(Buffer.concat(got)));
      socket.on('error', () => undefined);
      socket.setNoDelay(true);
      for (let i = 0; i < bytes.length; i += piece) socket.write(bytes.subarray(i, i + piece));
    });
  const GREETING = Buffer.from([5, 1, 0]);
  const request = (host: string, to: number, command = 1) =>
    Buffer.concat([Buffer.from([5, command, 0, 3, host.length]), Buffer.from(host), Buffer.from([to >> 8, to & 255])]);
  const GET = Buffer.from('GET / HTTP/1.1\r\nhost: x\r\nconnection: close\r\n\r\n');

  it('connects to what the guard lets pass, however the bytes come (RFC 1928)', async () => {
    const proxy = await start({ mapHosts: [`www.a.example=127.0.0.1:${port}`] });
    for (const piece of [1, 7, 1000]) {
      const answer = await say(proxy, Buffer.concat([GREETING, request('www.a.example', 80), GET]), piece);
      expect([...answer.subarray(0, 4)]).to.deep.equal([5, 0, 5, 0]);
      expect(answer.toString('latin1')).to.contain('garden');
    }
    expect(proxy.connections[0]).to.include({
      host: 'www.a.example',
      port: 80,
      address: '127.0.0.1',
      addressPort: port,
    });
  });

  it('says why it does not connect', async () => {
    const proxy = await start({ mapHosts: ['shut.example=127.0.0.1:9'] });
    const reply = async (bytes: Buffer) => (await say(proxy, Buffer.concat([GREETING, bytes])))[3];
    expect(await reply(request('localhost', port))).to.equal(2);
    expect(await reply(request('shut.example', 80))).to.equal(5);
    expect(await reply(request('www.a.example', 80, 2))).to.equal(7);
    expect(await reply(Buffer.from([5, 1, 0, 9, 1, 1, 1, 1]))).to.equal(8);
    expect(await say(proxy, Buffer.from('GET / HTTP/1.1\r\n\r\n'))).to.satisfy((b: Buffer) => b.length <= 2);
    expect(proxy.connections.map((c) => c.fault)).to.deep.equal([REFUSED_BY_GUARD, 'ECONNREFUSED']);
  });

  it('is the only way out of a browser, which loads pages through it', async () => {
    const proxy = await start({ allowPrivate: true });
    const browser = await chromium.launch({
      executablePath: findChromium(),
      args: browserSwitches([], false, { proxyPort: proxy.port }),
    });
    const page = await browser.newPage();
    await page.goto(`http://localhost:${port}/`);
    expect(await page.title()).to.equal('Fern');
    expect(proxy.connections.filter((c) => c.host === 'localhost').map((c) => c.port)).to.include(port);
    await proxy.close();
    started.length = 0;
    const error = await page.goto(`http://127.0.0.1:${port}/`).then(
      () => undefined,
      (e: unknown) => String(e),
    );
    expect(error).to.match(/ERR_(PROXY|SOCKS)/);
    await browser.close();
  });
});
