import { expect } from 'chai';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import zlib from 'node:zlib';
import type { InputError } from '../../src/core/capture/errors';
import { capturesIn, capturesOfFile, fileLimit, hashOfFile } from '../../src/engine/services/readCaptureFile';
import { openSpool } from '../../src/engine/services/spool';
import { contentHash } from '../../src/engine/store/bodies';
import { tempFolder } from '../fixtures/temp';

const PAGE = 'https://www.fernhollow.example/beds/';
const MB = 1024 * 1024;

function head(type: string, url: string, length: number, more = ''): string {
  return `WARC/1.1\r\nWARC-Type: ${type}\r\nWARC-Target-URI: ${url}\r\nContent-Type: application/http;msgtype=response\r\n${more}Content-Length: ${length}\r\n\r\n`;
}
function record(url: string, type: string, body: string | Buffer, more = '', kind = 'response'): Buffer {
  const block = Buffer.concat([Buffer.from(`HTTP/1.1 200 OK\r\nContent-Type: ${type}\r\n\r\n`), Buffer.from(body)]);
  return Buffer.concat([Buffer.from(head(kind, url, block.length, more)), block, Buffer.from('\r\n\r\n')]);
}

const SITE = [
  record(
    PAGE,
    'text/html',
    '<link rel=stylesheet href=/s.css><h1>Beds</h1><img src=/p.svg><iframe src=/map/></iframe>',
  ),
  record('https://www.fernhollow.example/map/', 'text/html', '<p>Map'),
  record(
    'https://www.fernhollow.example/trees/',
    'text/html',
    '<link rel=stylesheet href=/s.css><p>Trees<img src=/q.svg>',
  ),
  record('https://www.fernhollow.example/s.css', 'text/css', 'h1{color:#123}'),
  record(
    'https://www.fernhollow.example/p.svg',
    'image/svg+xml',
    '<svg xmlns="http://www.w3.org/2000/svg"/>',
    'WARC-Payload-Digest: sha1:P\r\n',
  ),
  record('https://www.fernhollow.example/q.svg', 'image/svg+xml', '', 'WARC-Payload-Digest: sha1:P\r\n', 'revisit'),
];

describe('engine: web archives read as a stream', () => {
  const temp = tempFolder('large-archive');
  const at = (name: string) => path.join(temp.folder, name);
  const spools = () => fs.readdirSync(os.tmpdir()).filter((name) => name.endsWith('.spool'));
  after(() => temp.remove());

  for (const [name, archive] of [
    ['as it is', Buffer.concat(SITE)],
    ['with gzip for each record', Buffer.concat(SITE.map((r) => zlib.gzipSync(r)))],
  ] as const)
    it(`give the same captures as those in memory: ${name}`, async () => {
      fs.writeFileSync(at('site'), archive);
      const streamed = await capturesOfFile(at('site'), 'site');
      const whole = capturesIn(archive, 'site');
      expect(streamed.map((r) => r.capture)).to.deep.equal(whole.map((r) => r.capture));
      expect(streamed.map((r) => r.capture.page)).to.deep.equal([PAGE, 'https://www.fernhollow.example/trees/']);
      for (const [i, read] of whole.entries())
        expect([...(streamed[i]?.bodies ?? [])].map(([k, b]) => [k, contentHash(b)])).to.deep.equal(
          [...read.bodies].map(([k, b]) => [k, contentHash(b)]),
        );
      // What both pages fetch is held once.
      const style = (n: number) =>
        [...(streamed[n]?.bodies.values() ?? [])].find((b) => Buffer.from(b).includes('#123'));
      expect(style(0)).to.equal(style(1));
      expect(await hashOfFile(at('site'))).to.equal(contentHash(archive));
      expect(spools()).to.deep.equal([]);
    });

  it('may be larger than fits into memory: a record that is too large is passed over and said', async () => {
    const film = 700 * MB;
    const before = Buffer.concat(SITE);
    const filmHead = Buffer.from(head('response', 'https://www.fernhollow.example/film.mp4', film));
    const file = fs.openSync(at('film'), 'w');
    fs.writeSync(file, before, 0, before.length, 0);
    fs.writeSync(file, filmHead, 0, filmHead.length, before.length);
    // A hole in the file: it takes no room.
    const tail = Buffer.concat([
      Buffer.from('\r\n\r\n'),
      record('https://www.fernhollow.example/last/', 'text/html', '<p>Last'),
    ]);
    fs.writeSync(file, tail, 0, tail.length, before.length + filmHead.length + film);
    fs.closeSync(file);
    const read = await capturesOfFile(at('film'), 'film');
    expect(read.map((r) => new URL(r.capture.page).pathname)).to.deep.equal(['/beds/', '/trees/', '/last/']);
    expect(read[0]?.capture.notes.join('\n')).to.contain('1 records are larger than 64 MB');
  });

  it('are told from their first bytes; other kinds may be smaller', async () => {
    expect(fileLimit(Buffer.concat(SITE)).words).to.equal('2 GB');
    expect(fileLimit(zlib.gzipSync(Buffer.concat(SITE)).subarray(0, 300)).words).to.equal('2 GB');
    for (const other of ['{"log":{}}', '', '\u001f\u008bbroken'])
      expect(fileLimit(Buffer.from(other, 'latin1')).words).to.equal('512 MB');
    fs.writeFileSync(at('large.har'), '{"log":');
    fs.truncateSync(at('large.har'), 513 * MB);
    const error = await capturesOfFile(at('large.har'), 'large.har').then(
      () => undefined,
      (e: unknown) => e as InputError,
    );
    expect(error).to.include({ what: 'The file is larger than 512 MB.', where: 'large.har' });
  });

  it('that are cut short, in gzip too, get a reason and leave nothing behind', async () => {
    const whole = Buffer.concat(SITE);
    for (const [name, bytes, words] of [
      ['cut', whole.subarray(0, whole.length - 20), 'within a record'],
      ['packed', zlib.gzipSync(whole).subarray(0, 200), 'cannot be unpacked'],
    ] as const) {
      fs.writeFileSync(at(name), bytes);
      const error = await capturesOfFile(at(name), name).then(
        () => undefined,
        (e: unknown) => e as InputError,
      );
      expect(error?.what, name).to.contain(words);
    }
    expect(spools()).to.deep.equal([]);
  });

  it('put contents away up to a stated size', () => {
    const spool = openSpool(100);
    const first = spool.put(new Uint8Array(60).fill(1));
    expect(spool.put(new Uint8Array(60))).to.equal(undefined);
    const second = spool.put(new Uint8Array(40).fill(2));
    expect(second?.()).to.deep.equal(new Uint8Array(40).fill(2));
    expect(first?.()).to.deep.equal(new Uint8Array(60).fill(1));
    spool.close();
  });
});
