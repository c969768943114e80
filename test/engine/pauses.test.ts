import http from 'node:http';
import http2 from 'node:http2';
import type { AddressInfo } from 'node:net';
import { expect } from 'chai';
import type { Pause, Work } from '../../src/core/capture/capture';
import { readCaptures } from '../../src/core/capture/readers';
import { DEFAULT_VISITOR } from '../../src/core/load/visitors';
import { VERSION } from '../../src/core/version';
import { pausesInAll, pausesOf } from '../../src/engine/record/pauses';
import { recordPages } from '../../src/engine/record/record';
import type { SeenLoad } from '../../src/engine/record/seenLoad';
import { harFile } from '../../src/engine/record/writeHar';
import { partsOf, sendParts } from '../../src/engine/replay/parts';
import { Turns } from '../../src/engine/replay/turns';

const seen = (rests: SeenLoad['rests'], decodedBytes = 1000): SeenLoad =>
  ({ rests, decodedBytes, timing: { requestTime: 10, receiveHeadersEnd: 100 } }) as unknown as SeenLoad;
const rest = (fromMs: number, toMs: number, before: number) => ({
  fromS: 10 + fromMs / 1000,
  toS: 10 + toMs / 1000,
  before,
});
const work = (startMs: number, untilMs: number): Work => ({ kind: 'script', startMs, untilMs, durationMs: 1 });
const of = (load: SeenLoad, list: readonly Work[] = [], rttMs = 1) =>
  pausesOf(load, list, rttMs, (s) => (s - 10) * 1000);

describe('engine/record: pauses of a server within an answer', () => {
  it('are stretches without a byte, by share of the body and time since the first byte', () => {
    expect(of(seen([rest(120, 620, 250), rest(700, 1000, 600)]))).to.deep.equal([
      { share: 0.25, ms: 520 },
      { share: 0.6, ms: 900 },
    ]);
  });

  it('are none while the browser works, within a few round trips, or without bytes', () => {
    expect(of(seen([rest(120, 620, 250)]), [work(100, 400), work(150, 300), work(390, 600)])).to.equal(undefined);
    expect(of(seen([rest(120, 620, 250)]), [work(100, 300)])).to.have.length(1);
    expect(of(seen([rest(120, 320, 250)]), [], 150)).to.equal(undefined);
    expect(of(seen([rest(120, 620, 0)], 0))).to.equal(undefined);
    expect(of(seen([rest(100, 300, 0)])), 'a browser that makes a page ready').to.equal(undefined);
    expect(of(seen([rest(100, 700, 0)]))).to.deep.equal([{ share: 0, ms: 600 }]);
    expect(of(seen([]))).to.equal(undefined);
  });

  it('of several runs are those of all, as short as in the shortest', () => {
    const a: Pause[] = [
      { share: 0.2, ms: 500 },
      { share: 0.7, ms: 900 },
    ];
    expect(pausesInAll(a, [[{ share: 0.2, ms: 450 }]])).to.deep.equal([{ share: 0.2, ms: 450 }]);
    const other = [
      { share: 0.1, ms: 90 },
      { share: 0.69, ms: 950 },
    ];
    expect(pausesInAll(a, [other])).to.deep.equal([{ share: 0.7, ms: 900 }]);
    expect(pausesInAll(a, [undefined])).to.equal(undefined);
    expect(pausesInAll(a, [])).to.deep.equal(a);
    expect(pausesInAll(undefined, [a])).to.equal(undefined);
  });

  it('are recorded by the browser', async () => {
    const server = http.createServer((request, response) => {
      if (request.url !== '/') return void response.writeHead(404).end();
      response.writeHead(200, { 'content-type': 'text/html' });
      const body = Buffer.from(
        `<!doctype html><title>x</title><h1>Beds</h1>${' '.repeat(3000)}<p>Sown in March${' '.repeat(1000)}`,
      );
      sendParts(response, body, [{ share: 0.75, ms: 600 }]);
    });
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', () => done()));
    const { port } = server.address() as AddressInfo;
    try {
      const url = `http://127.0.0.1:${port}/`;
      const pages = await recordPages([url], { tabMs: 0, visitor: DEFAULT_VISITOR, allowPrivate: true, waitMs: 300 });
      const pauses = readCaptures(Buffer.from(harFile(pages, VERSION)))[0]?.capture.loads[0]?.pauses;
      expect(pauses).to.have.length(1);
      expect(pauses?.[0]?.share).to.be.closeTo(0.75, 0.02);
      expect(pauses?.[0]?.ms).to.be.above(300);
    } finally {
      server.close();
      server.closeAllConnections();
    }
  });
});

describe('engine/replay: answers in parts', () => {
  const body = Buffer.from(Array.from({ length: 50_000 }, (_, i) => i % 251));
  const pauses = [
    { share: 0, ms: 20 },
    { share: 0.5, ms: 60 },
  ];

  it('cut a body at its shares', () => {
    expect(partsOf(100, pauses)).to.deep.equal([{ end: 0, pauseMs: 20 }, { end: 50, pauseMs: 60 }, { end: 100 }]);
    expect(partsOf(100)).to.deep.equal([{ end: 100 }]);
  });

  for (const [name, made] of [
    ['with pauses', pauses],
    ['without', undefined],
  ] as const)
    it(`arrive whole ${name}, over HTTP/1.1 and HTTP/2`, async () => {
      const one = http.createServer((_, response) => sendParts(response, body, made));
      const turns = new Turns('urgency');
      const two = http2.createServer((_, { stream }) => {
        stream.respond({ ':status': 200 });
        turns.add(stream, body, { level: 3, incremental: true }, made);
      });
      for (const s of [one, two]) await new Promise<void>((done) => s.listen(0, '127.0.0.1', () => done()));
      try {
        const plain = await fetch(`http://127.0.0.1:${(one.address() as AddressInfo).port}/`);
        expect(Buffer.from(await plain.arrayBuffer()).equals(body)).to.equal(true);
        const session = http2.connect(`http://127.0.0.1:${(two.address() as AddressInfo).port}`);
        const stream = session.request({ ':path': '/' });
        const chunks: Buffer[] = [];
        for await (const chunk of stream) chunks.push(chunk as Buffer);
        expect(Buffer.concat(chunks).equals(body)).to.equal(true);
        session.close();
      } finally {
        one.close();
        two.close();
      }
    });
});
