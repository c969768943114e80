import { expect } from 'chai';
import fc from 'fast-check';
import { gzipSync, zipSync } from 'fflate';
import zlib from 'node:zlib';
import { InputError } from '../../../src/core/capture/errors';
import type { ReadCapture } from '../../../src/core/capture/har';
import { readCaptures } from '../../../src/core/capture/readers';
import { auditPage, NO_SIZES } from '../../../src/core/plan/audit';
import { bodiesInMemory } from '../../../src/core/capture/capture';
import { readPage } from '../../../src/core/source/page';
import { CONTENT_DECODERS } from '../../../src/engine/services/contentDecoders';

const PAGE = 'https://www.fernhollow.example/beds/';
const bytes = (text: string) => Buffer.from(text, 'latin1');
const read = (input: Uint8Array, name = 'dropped') => readCaptures(input, name);
const urls = (capture: ReadCapture | undefined) => capture?.capture.loads.map((l) => l.url);
const text = (capture: ReadCapture | undefined, end: string) => {
  const load = capture?.capture.loads.find((l) => l.url.endsWith(end));
  return load && Buffer.from(capture?.bodies.get(load.index) ?? []).toString('utf8');
};
const fault = (input: Uint8Array): InputError => {
  try {
    read(input);
  } catch (error) {
    if (error instanceof InputError) return error;
    throw error;
  }
  throw new Error('nothing was wrong');
};

const HTML = `<!doctype html><html><head><link rel="stylesheet" href="/s.css"><script src="http://a.example/j.js"></script></head><body><h1>Beds</h1><img src="/hero.jpg" width="800" height="600"></body></html>`;

/** A WARC record (ISO 28500, 4). */
function record(type: string, target: string, block: string | Buffer, more: Record<string, string> = {}): Buffer {
  const body = typeof block === 'string' ? Buffer.from(block, 'latin1') : block;
  const head = [
    'WARC/1.1',
    `WARC-Type: ${type}`,
    `WARC-Target-URI: ${target}`,
    'WARC-Date: 2026-11-12T10:00:00Z',
    ...(type === 'warcinfo' ? [] : ['Content-Type: application/http;msgtype=response']),
    ...Object.entries(more).map(([k, v]) => `${k}: ${v}`),
    `Content-Length: ${body.length}`,
  ].join('\r\n');
  return Buffer.concat([Buffer.from(`${head}\r\n\r\n`), body, Buffer.from('\r\n\r\n')]);
}
const answer = (type: string, body: string | Buffer, more = '') =>
  Buffer.concat([Buffer.from(`HTTP/1.1 200 OK\r\nContent-Type: ${type}\r\n${more}\r\n`), Buffer.from(body)]);

describe('core/capture/archives: contents in brotli', () => {
  const packed = record(
    'response',
    PAGE,
    answer('text/html; charset=utf-8', zlib.brotliCompressSync(HTML), 'Content-Encoding: br\r\n'),
  );

  it('are read with a decoder, and a bomb or a broken one is not', () => {
    const [page] = readCaptures(packed, 'dropped', CONTENT_DECODERS);
    expect(Buffer.from(page?.bodies.get(0) ?? []).toString()).to.equal(HTML);
    const style = (body: Buffer) =>
      record('response', 'https://www.fernhollow.example/s.css', answer('text/css', body, 'Content-Encoding: br\r\n'));
    for (const body of [zlib.brotliCompressSync(Buffer.alloc(70 * 1024 * 1024)), Buffer.from('broken')]) {
      const [read] = readCaptures(Buffer.concat([packed, style(body)]), 'dropped', CONTENT_DECODERS);
      expect(read?.bodies.has(1)).to.equal(false);
      expect(read?.capture.notes.join('\n')).to.contain('1 answers came in a coding that could not be read');
    }
  });
});

describe('core/capture/archives: WARC (ISO 28500)', () => {
  const records = [
    record('warcinfo', 'https://none.example/', 'software: test'),
    record('response', 'http://www.fernhollow.example/beds/', `HTTP/1.1 301 Moved\r\nLocation: ${PAGE}\r\n\r\n`),
    record(
      'response',
      PAGE,
      answer('text/html; charset=utf-8', gzipSync(Buffer.from(HTML)) as Buffer, 'Content-Encoding: gzip\r\n'),
    ),
    record(
      'response',
      'https://www.fernhollow.example/s.css',
      answer('text/css', '1a\r\nh1{background:url("b.png")\r\n1\r\n}\r\n0\r\n\r\n', 'Transfer-Encoding: chunked\r\n'),
    ),
    record('response', 'https://www.fernhollow.example/b.png', answer('image/png', 'PNG'), {
      'WARC-Payload-Digest': 'sha1:B',
    }),
    record('response', 'https://www.fernhollow.example/other.png', answer('image/png', 'not of this page')),
    record('revisit', 'https://www.fernhollow.example/hero.jpg', answer('image/jpeg', ''), {
      'WARC-Payload-Digest': 'sha1:B',
    }),
  ];

  it('gives the page with its redirect, styles and pictures, decoded, and nothing else', () => {
    const [capture, ...rest] = read(Buffer.concat(records));
    expect(rest).to.deep.equal([]);
    expect(capture?.capture.page).to.equal(PAGE);
    expect(urls(capture)).to.have.members([
      'http://www.fernhollow.example/beds/',
      PAGE,
      'https://www.fernhollow.example/s.css',
      'https://www.fernhollow.example/b.png',
      'https://www.fernhollow.example/hero.jpg',
    ]);
    expect(text(capture, '/beds/')).to.satisfy((t: string) => t === '' || t.includes('Beds'));
    expect(text(capture, 's.css')).to.equal('h1{background:url("b.png")}');
    expect(text(capture, 'hero.jpg'), 'a revisit has the contents of the first').to.equal('PNG');
    expect(capture?.capture.notes.join(' ')).to.contain('without the times and order');
  });

  it('gives every page of a crawl its own load, and frames to the page that shows them', () => {
    const crawl = [
      record('response', PAGE, answer('text/html', '<iframe src="/map/"></iframe><p>Beds')),
      record('response', 'https://www.fernhollow.example/map/', answer('text/html', '<p>Map')),
      record('response', 'https://www.fernhollow.example/trees/', answer('text/html', '<p>Trees')),
    ];
    const pages = read(Buffer.concat(crawl));
    expect(pages.map((p) => p.capture.page)).to.deep.equal([PAGE, 'https://www.fernhollow.example/trees/']);
    expect(pages[0]?.capture.loads.map((l) => l.kind)).to.deep.equal(['document', 'frame']);
  });

  it('says which record is broken', () => {
    const good = records[1] as Buffer;
    expect(fault(Buffer.concat([good, Buffer.from('RUBBISH')])).where).to.match(/record 2, byte \d+/);
    expect(fault(Buffer.concat([records[2] as Buffer]).subarray(0, 300)).what).to.contain('within a record');
    expect(fault(good).what).to.contain('no page');
  });

  it('is examined and forecast like any capture', () => {
    const [capture] = read(Buffer.concat(records));
    const audit = auditPage(
      readPage((capture as ReadCapture).capture, bodiesInMemory((capture as ReadCapture).bodies)),
      NO_SIZES,
    );
    expect(audit.findings.map((f) => f.concern)).to.include('mixed');
    expect(audit.fixes.length).to.be.above(0);
  });
});

describe('core/capture/archives: MHTML (RFC 2557)', () => {
  const part = (headers: string, body: string) => `------b\r\n${headers}\r\n\r\n${body}\r\n`;
  const head = (location = PAGE) =>
    `From: <Saved>\r\nSnapshot-Content-Location: ${location}\r\nSubject: Beds\r\nDate: Thu, 12 Nov 2026 10:00:00 -0000\r\nMIME-Version: 1.0\r\nContent-Type: multipart/related;\r\n\ttype="text/html";\r\n\tboundary="----b"\r\n\r\n`;
  const page = part(
    `Content-Type: text/html\r\nContent-ID: <frame-1@mhtml.example>\r\nContent-Transfer-Encoding: quoted-printable\r\nContent-Location: ${PAGE}`,
    '<!doctype html><link rel=3D"stylesheet" type=3D"text/css" href=3D"cid:css-1@mh=\r\ntml.example"><h1>Caf=C3=A9</h1><img src=3D"cid:pic@x"><img src=3D"https://m.example/b.gif">',
  );
  const sheet = part(
    'Content-Type: text/css\r\nContent-Transfer-Encoding: quoted-printable\r\nContent-Location: cid:css-1@mhtml.example',
    'h1{color:red}',
  );
  const picture = part(
    'Content-Type: image/png\r\nContent-ID: <pic@x>\r\nContent-Transfer-Encoding: base64\r\nContent-Location: https://www.fernhollow.example/p.png',
    'UE5H',
  );
  const file = bytes(`${head()}${page}${sheet}${picture}------b--\r\n`);

  it('gives the page with its parts; what has no address stands in the page again', () => {
    const [capture] = read(file);
    expect(capture?.capture.page).to.equal(PAGE);
    expect(urls(capture)).to.have.members([PAGE, 'https://www.fernhollow.example/p.png']);
    expect(text(capture, '/beds/')).to.contain('<style>h1{color:red}</style>').and.to.contain('Café');
    expect(text(capture, 'p.png')).to.equal('PNG');
    expect(capture?.capture.recordedAt).to.equal('2026-11-12T10:00:00.000Z');
    expect(capture?.capture.notes.join(' ')).to.contain('without its scripts');
  });

  it('names what is missing', () => {
    expect(fault(bytes(head().replace(/boundary="[^"]*"/, 'x=y'))).what).to.contain('no boundary');
    expect(fault(bytes(head())).what).to.contain('no parts');
    expect(fault(bytes(`${head()}${picture}------b--`)).what).to.contain('holds no page');
    expect(fault(bytes(`${head('file:///c/page.html')}${page.replace(PAGE, 'file:///c')}------b--`)).what).to.contain(
      'which address',
    );
  });
});

describe('core/capture/archives: saved pages and ZIP', () => {
  const saved = `<!doctype html>\n<!-- saved from url=(0038)${PAGE} -->\n<html><head><link rel="stylesheet" href="./Beds_files/s.css"></head><body><h1>Beds</h1></body></html>`;

  it('reads a page alone by the address that it tells', () => {
    const [capture] = read(bytes(saved));
    expect(capture?.capture.page).to.equal(PAGE);
    expect(capture?.capture.notes.join(' ')).to.contain('saved alone');
    const [own] = read(bytes(`<html><link rel=canonical href="${PAGE}"><p>x`));
    expect(own?.capture.page).to.equal(PAGE);
    expect(fault(bytes('<!doctype html><p>Fern')).next).to.contain('canonical');
  });

  it('reads a page with its folder, and captures, from a ZIP', () => {
    const folder = zipSync({
      'site/Beds.html': bytes(saved),
      'site/Beds_files/s.css': bytes('h1{}'),
      'site/Beds_files/x.html': bytes('<p>frame'),
    });
    const [capture, ...rest] = read(folder);
    expect(rest).to.deep.equal([]);
    expect(urls(capture)).to.deep.equal([PAGE, `${PAGE}Beds_files/s.css`]);
    const warc = zipSync({ 'a.warc': record('response', PAGE, answer('text/html', '<p>Beds')) });
    expect(read(warc)[0]?.capture.page).to.equal(PAGE);
    expect(fault(zipSync({ 'notes.txt': bytes('nothing') })).what).to.contain('no capture and no saved page');
  });

  it('refuses a ZIP that would unpack to too much, before it does', () => {
    const zip = zipSync({ 'a.html': bytes(saved) });
    const entry = zip.lastIndexOf(0x50, zip.length - 60);
    const large = Uint8Array.from(zip);
    // The size in the central directory (APPNOTE, 4.3.12) is what a reader believes.
    const at = Buffer.from(large).indexOf(Buffer.from([0x50, 0x4b, 0x01, 0x02]));
    new DataView(large.buffer).setUint32(at + 24, 0x7fffffff, true);
    expect(entry).to.be.above(0);
    expect(fault(large).what).to.match(/512 MB|cannot be unpacked/);
  });
});

describe('core/capture/archives: broken and hostile files', () => {
  const whole: Record<string, Buffer> = {
    warc: Buffer.concat([
      record('response', PAGE, answer('text/html', HTML)),
      record('revisit', 'https://www.fernhollow.example/s.css', ''),
    ]),
    mhtml: bytes(
      `From: <Saved>\r\nSnapshot-Content-Location: ${PAGE}\r\nContent-Type: multipart/related; boundary="b"\r\n\r\n--b\r\nContent-Type: text/html\r\nContent-Transfer-Encoding: base64\r\nContent-Location: ${PAGE}\r\n\r\n${Buffer.from(HTML).toString('base64')}\r\n--b--`,
    ),
    zip: Buffer.from(zipSync({ 'a.html': bytes(`<!-- saved from url=(0020)${PAGE} --><html><p>x`) })),
  };
  for (const [name, file] of Object.entries(whole))
    it(`${name}: any change gives a capture or a reason`, () => {
      fc.assert(
        fc.property(
          fc.array(
            fc.record({
              at: fc.nat(file.length - 1),
              what: fc.constantFrom('flip', 'cut', 'repeat', 'drop'),
              value: fc.nat(255),
            }),
            {
              minLength: 1,
              maxLength: 6,
            },
          ),
          (changes) => {
            let out = Buffer.from(file);
            for (const { at, what, value } of changes) {
              const i = Math.min(at, Math.max(0, out.length - 1));
              if (what === 'flip') out[i] = value;
              else if (what === 'cut') out = out.subarray(0, i);
              else if (what === 'drop') out = Buffer.concat([out.subarray(0, i), out.subarray(i + value)]);
              else out = Buffer.concat([out.subarray(0, i), out.subarray(Math.max(0, i - value))]);
            }
            try {
              readCaptures(out, 'changed');
            } catch (error) {
              if (!(error instanceof InputError)) throw error;
            }
          },
        ),
        { numRuns: 400 },
      );
    });
});
