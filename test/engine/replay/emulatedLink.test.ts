import { expect } from 'chai';
import net from 'node:net';
import type { Duplex } from 'node:stream';
import { EmulatedLink } from '../../../src/engine/replay/emulatedLink';

/** What was written, as a stream of bytes that can be told apart. */
const numbered = (length: number) => Buffer.from(Array.from({ length }, (_, i) => (i * 31) % 251));

describe('engine/replay/emulatedLink', () => {
  const open: { end(): void }[] = [];
  afterEach(() => open.splice(0).forEach((o) => o.end()));

  /** A client on one side of the link and the server's end of each connection on the other. */
  async function joined(link: EmulatedLink, serve: (server: Duplex) => void): Promise<net.Socket> {
    const listener = net.createServer((socket) => serve(link.join(socket)));
    await new Promise<void>((done) => listener.listen(0, '127.0.0.1', done));
    const client = net.connect((listener.address() as net.AddressInfo).port, '127.0.0.1');
    open.push({ end: () => (client.destroy(), listener.close()) });
    return client;
  }

  const read = (socket: Duplex, bytes: number) =>
    new Promise<Buffer>((done) => {
      const got: Buffer[] = [];
      let length = 0;
      socket.on('data', (chunk: Buffer) => {
        got.push(chunk);
        length += chunk.length;
        if (length >= bytes) done(Buffer.concat(got));
      });
    });

  it('carries every byte in order both ways, also where the queue overflows', async () => {
    const down = numbered(400_000);
    const up = numbered(30_000);
    let heard: Promise<Buffer> | undefined;
    const client = await joined(new EmulatedLink({ rttMs: 4, downKbps: 8000, upKbps: 8000 }), (server) => {
      heard = read(server, up.length);
      server.write(down);
    });
    client.write(up);
    expect((await read(client, down.length)).equals(down)).to.equal(true);
    expect((await heard)?.equals(up)).to.equal(true);
  });

  it('ends both sides when one ends', async () => {
    const ended = new Promise<void>((done, fail) => {
      joined(new EmulatedLink({ rttMs: 4, downKbps: 8000, upKbps: 8000 }), (server) => {
        server.end('that is all');
      }).then((client) => {
        let text = '';
        client.on('data', (chunk: Buffer) => (text += chunk.toString()));
        client.on('end', () => (text === 'that is all' ? done() : fail(new Error(text))));
      }, fail);
    });
    await ended;
  });

  it('is never faster than a round trip to open and one to ask', async () => {
    const link = new EmulatedLink({ rttMs: 100, downKbps: 100_000, upKbps: 100_000 });
    const opened = link.now();
    let asked = 0;
    const client = await joined(link, (server) => {
      server.once('data', () => {
        asked = link.now() - opened;
        server.write(Buffer.alloc(14_480));
      });
    });
    client.write('?');
    await read(client, 14_480);
    const answered = link.now() - opened;
    // Later never sooner: a busy machine may add to it.
    expect(asked).to.be.at.least(149);
    expect(answered).to.be.at.least(199);
  });
});
