import http2 from 'node:http2';
import type { AddressInfo } from 'node:net';
import { expect } from 'chai';
import { generate } from 'selfsigned';
import { Turns, urgencyOf } from '../../src/engine/replay/turns';
import { roundTripTo } from '../../src/engine/record/askServers';
import { FRAME, FrameReader, requestHeaders, type Frame } from '../../src/engine/record/http2Frames';
import { servesByUrgency, type Place } from '../../src/engine/record/serverTurns';

describe('engine/record: how servers send', () => {
  let tls: { key: string; cert: string };
  const servers: http2.Http2SecureServer[] = [];
  before(async () => {
    const made = await generate([{ name: 'commonName', value: 'www.fernhollow.example' }], {
      keySize: 2048,
      algorithm: 'sha256',
    });
    tls = { key: made.private, cert: made.cert };
  });
  after(() => servers.forEach((s) => s.close()));

  /** A server that answers `/BYTES-name` with so many bytes. */
  async function serve(order: 'fair' | 'urgency'): Promise<Place> {
    const turns = new WeakMap<object, Turns>();
    const server = http2.createSecureServer(tls, (request, { stream }) => {
      if (!stream.session) return;
      stream.on('error', () => undefined);
      stream.respond({ ':status': 200 });
      const own = turns.get(stream.session) ?? new Turns(order);
      turns.set(stream.session, own);
      own.add(
        stream,
        Buffer.alloc(Number.parseInt(request.url.slice(1))),
        urgencyOf(request.headers.priority as string),
      );
    });
    server.on('sessionError', () => undefined);
    servers.push(server);
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', () => done()));
    const { port } = server.address() as AddressInfo;
    return { host: 'www.fernhollow.example', address: '127.0.0.1', port, acceptAnyCertificate: true };
  }

  const files = (sizes: readonly number[]) => sizes.map((bytes, i) => ({ path: `/${bytes}-${i}`, bytes }));
  const many = files([94_000, 30_700, ...Array.from({ length: 8 }, () => 16_000)]);

  it('tells a server that honours urgency from one that sends in turn', async () => {
    expect(await servesByUrgency(await serve('urgency'), many)).to.equal(true);
    expect(await servesByUrgency(await serve('fair'), many)).to.equal(false);
  });

  it('says nothing of a server with too little to send, with a bad certificate, or that is not there', async () => {
    const place = await serve('fair');
    expect(await servesByUrgency(place, files([40_000, 9_000]))).to.equal(undefined);
    expect(await servesByUrgency({ ...place, acceptAnyCertificate: false }, many)).to.equal(undefined);
    expect(await servesByUrgency({ ...place, port: 1 }, many)).to.equal(undefined);
  });

  it('measures the round trip by handshakes, if there is anybody', async () => {
    const { port } = await serve('fair');
    expect(await roundTripTo('127.0.0.1', port)).to.be.within(0, 200);
    expect(await roundTripTo('127.0.0.1', 1)).to.equal(undefined);
  });

  it('cuts frames however the bytes come (RFC 9113, 4.1)', () => {
    const bytes = Buffer.concat(
      [1, 3].map((s) => requestHeaders(s, 'www.fernhollow.example', '/' + 'a'.repeat(300), 'u=6, i', 1)),
    );
    for (const step of [1, 7, bytes.length]) {
      const frames: Frame[] = [];
      const reader = new FrameReader((f) => frames.push(f));
      for (let at = 0; at < bytes.length; at += step) reader.read(bytes.subarray(at, at + step));
      expect(frames.map((f) => [f.type, f.stream])).to.deep.equal([
        [FRAME.headers, 1],
        [FRAME.headers, 3],
      ]);
    }
  });
});
