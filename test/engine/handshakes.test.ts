import { expect } from 'chai';
import net, { type AddressInfo } from 'node:net';
import tls from 'node:tls';
import { generate } from 'selfsigned';
import type { Handshake } from '../../src/core/capture/capture';
import { handshakesAgain } from '../../src/engine/record/handshakes';
import type { SeenLoad } from '../../src/engine/record/seenLoad';

describe('engine/record: handshakes made again', () => {
  let server: tls.Server;
  let connections = 0;
  before(async () => {
    const made = await generate([{ name: 'commonName', value: 'www.fernhollow.example' }], { keySize: 2048 });
    server = tls.createServer({ key: made.private, cert: made.cert, ALPNProtocols: ['h2'] });
    server.on('connection', () => connections++);
    server.on('secureConnection', (socket) => socket.on('error', () => undefined));
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', () => done()));
  });
  after(() => server.close());
  beforeEach(() => (connections = 0));

  /** A load whose handshake took the browser so long. */
  const load = (tookMs: number, port: number): SeenLoad => {
    const timing = { requestTime: 1, dnsStart: -1, dnsEnd: -1, connectStart: 0, sslStart: 1, connectEnd: tookMs };
    const url = 'https://www.fernhollow.example/';
    return { url, address: '127.0.0.1', port, protocol: 'h2', timing: { ...timing, sslEnd: tookMs } } as SeenLoad;
  };
  const port = () => (server.address() as AddressInfo).port;

  it('tells what the server takes where the browser took long', async () => {
    const known = new Map<string, Handshake>();
    const [made, ...more] = await handshakesAgain([load(300, port()), load(300, port())], 1, known);
    expect(more).to.deep.equal([]);
    expect(made?.origin).to.equal('https://www.fernhollow.example');
    expect(made?.connectMs).to.be.above(0);
    expect(made?.tlsMs).to.be.above(0);
    expect(connections, 'one origin, twice').to.equal(2);
  });

  it('keeps the least of all runs', async () => {
    const best = { origin: 'https://www.fernhollow.example', connectMs: 0, tlsMs: 0 };
    expect(await handshakesAgain([load(300, port())], 1, new Map([[best.origin, best]]))).to.deep.equal([best]);
  });

  it('asks nobody whose handshake is believed', async () => {
    expect(await handshakesAgain([load(12, port())], 1, new Map())).to.deep.equal([]);
    expect(connections).to.equal(0);
  });

  it('tells nothing of a server that does not answer, or not over TLS', async () => {
    const plain = net.createServer((socket) => socket.resume().end('no'));
    await new Promise<void>((done) => plain.listen(0, '127.0.0.1', () => done()));
    const closed = (plain.address() as AddressInfo).port;
    expect(await handshakesAgain([load(300, closed)], 1, new Map())).to.deep.equal([]);
    await new Promise((done) => plain.close(done));
    expect(await handshakesAgain([load(300, closed)], 1, new Map())).to.deep.equal([]);
  });
});
