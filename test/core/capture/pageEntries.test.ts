import { expect } from 'chai';
import { zipSync } from 'fflate';
import { readCaptures } from '../../../src/core/capture/readers';
import type { ReadCapture } from '../../../src/core/capture/har';
import { auditPage, NO_SIZES } from '../../../src/core/plan/audit';
import { bodiesInMemory } from '../../../src/core/capture/capture';
import { readPage } from '../../../src/core/source/page';
import { bytesOf, har } from '../../fixtures/har';

const PAGE = 'https://www.fernhollow.example/beds/';
const BEGAN = '2026-11-12T10:00:00.000Z';
const HTML =
  '<!doctype html><html lang="en"><head><title>Beds</title><link rel="stylesheet" href="/s.css"><script src="/j.js"></script></head><body><h1>Beds</h1><img src="https://media.fernhollow.example/hero.jpg" alt=""></body></html>';

const resource = (name: string, initiatorType: string, more: object = {}) => ({
  name,
  initiatorType,
  startTime: 100,
  requestStart: 120,
  responseStart: 180,
  responseEnd: 200,
  transferSize: 5300,
  encodedBodySize: 5000,
  decodedBodySize: 20_000,
  responseStatus: 200,
  nextHopProtocol: 'h2',
  ...more,
});

/** What the snippet saves, as Resource Timing and the rest write it. */
const taken = (more: object = {}) => ({
  keenLensPage: 1,
  url: `${PAGE}#top`,
  title: 'Beds',
  userAgent: 'Made for a test, Mobile',
  began: BEGAN,
  isSecureContext: true,
  screen: { width: 400, height: 860, density: 2.5, touch: true },
  navigation: {
    ...resource(PAGE, 'navigation'),
    startTime: 0,
    domainLookupStart: 5,
    domainLookupEnd: 10,
    connectStart: 10,
    secureConnectionStart: 30,
    connectEnd: 60,
    requestStart: 60,
    responseStart: 160,
    responseEnd: 190,
    domContentLoadedEventEnd: 400,
    loadEventStart: 900,
  },
  resources: [
    resource('https://www.fernhollow.example/s.css', 'link', { renderBlockingStatus: 'blocking' }),
    resource('https://www.fernhollow.example/j.js', 'script', {
      renderBlockingStatus: 'blocking',
      encodedBodySize: 20_000,
      transferSize: 20_300,
    }),
    // Of another site that does not allow its times to be seen.
    resource('https://media.fernhollow.example/hero.jpg', 'img', {
      requestStart: 0,
      responseStart: 0,
      transferSize: 0,
      encodedBodySize: 0,
      decodedBodySize: 0,
      responseStatus: 0,
      nextHopProtocol: '',
      responseEnd: 700,
    }),
  ],
  paints: [{ name: 'first-contentful-paint', startTime: 350 }],
  largestPaints: [{ timeMs: 750, size: 90_000, url: 'https://media.fernhollow.example/hero.jpg', tag: 'img' }],
  shifts: [
    { startTime: 800, value: 0.1, hadRecentInput: false },
    { startTime: 900, value: 0.4, hadRecentInput: true },
  ],
  longTasks: [{ startTime: 200, duration: 90 }],
  pictures: [],
  firstScreen: [],
  html: HTML,
  contents: {
    [`${PAGE}#top`]: {
      text: HTML,
      headers: [
        ['content-type', 'text/html'],
        ['cache-control', 'no-cache'],
      ],
    },
  },
  ...more,
});
const file = (more?: object) => Buffer.from(JSON.stringify(taken(more)));
const only = (bytes: Uint8Array): ReadCapture => {
  const read = readCaptures(bytes, 'beds.page.json');
  expect(read).to.have.length(1);
  return read[0] as ReadCapture;
};
const findingsOf = ({ capture, bodies }: ReadCapture) =>
  auditPage(readPage(capture, bodiesInMemory(bodies)), NO_SIZES).findings;

describe('core/capture/pageEntries', () => {
  it('reads loads, times, paints and the screen of a page', () => {
    const { capture } = only(file());
    expect(capture).to.include({ page: PAGE, title: 'Beds', device: 'phone' });
    expect(capture.measured).to.include({ fcpMs: 350, lcpMs: 750, cls: 0.1, loadMs: 900, ttfbMs: 160 });
    expect(capture.conditions).to.include({ screenWidth: 400, density: 2.5, stated: false });
    const [document, style, script, hero] = capture.loads;
    expect(document).to.include({ kind: 'document', protocol: 'h2' });
    expect(document?.timings).to.include({ connectMs: 20, tlsMs: 30, waitMs: 100, receiveMs: 30 });
    expect(style).to.include({ kind: 'style', renderBlocking: true, bodyBytes: 5000, decodedBytes: 20_000 });
    expect(script).to.include({ kind: 'script', renderBlocking: true });
    expect(hero).to.include({ kind: 'image', status: 200, endMs: 700 });
    expect(capture.observations?.largestPaints[0]).to.include({ tag: 'img', timeMs: 750 });
    expect(capture.observations?.work).to.equal(undefined);
    expect(capture.notes.join('\n')).to.contain('Long tasks of this visit: 1, 90 ms together.');
  });

  it('finds what its figures show, and nothing that only headers would show', () => {
    const found = findingsOf(only(file()));
    const of = (check: string) => found.filter((f) => f.check === check).map((f) => f.target);
    expect(of('text-uncompressed')).to.deep.equal(['https://www.fernhollow.example/j.js']);
    expect(of('script-blocking')).to.have.length(1);
    expect(of('cache-short')).to.deep.equal([]);
  });

  it('says what came from the cache, and which entries a browser does not have', () => {
    const cached = resource('https://www.fernhollow.example/j.js', 'script', { transferSize: 0 });
    const { capture } = only(file({ resources: [cached], largestPaints: [] }));
    expect(capture.notes.join('\n')).to.match(/1 of its files came from the browser's cache/);
    expect(capture.notes.join('\n')).to.match(/does not tell the largest paints/);
  });

  it('is joined to a HAR of the same load that lies in the same ZIP, and to no other', () => {
    const loads = [
      { url: PAGE, body: HTML },
      { url: 'https://www.fernhollow.example/s.css', body: 'h1{color:green}', start: 100 },
      { url: 'https://www.fernhollow.example/j.js', body: 'var a;', start: 100 },
    ];
    const recorded = JSON.parse(Buffer.from(bytesOf(har(loads))).toString()) as {
      log: { pages: { startedDateTime: string; _lens?: object }[] };
    };
    for (const page of recorded.log.pages) delete page._lens;
    const started = Date.parse(recorded.log.pages[0]?.startedDateTime ?? '');
    const zip = (at: number) =>
      zipSync({
        'load.har': Buffer.from(JSON.stringify(recorded)),
        'beds.page.json': file({ began: new Date(at).toISOString() }),
      });
    const joined = only(zip(started + 300));
    expect(joined.capture.loads).to.have.length(3);
    expect(joined.capture.measured).to.include({ fcpMs: 350, lcpMs: 750 });
    expect(joined.capture.device).to.equal('phone');
    expect(joined.capture.loads[2]).to.include({ renderBlocking: true });
    expect(Buffer.from(joined.bodies.get(1) ?? []).toString()).to.equal('h1{color:green}');
    expect(readCaptures(zip(started + 60_000), 'x.zip')).to.have.length(2);
  });

  it('says what is wrong with a file, and where', () => {
    const wrong = (bytes: Uint8Array) => {
      try {
        readCaptures(bytes, 'beds.page.json');
      } catch (error) {
        return String(error);
      }
      return '';
    };
    expect(wrong(file({ began: 'now' }))).to.contain('$.began');
    expect(wrong(file({ url: 7 }))).to.contain('$.url');
    expect(wrong(file({ resources: [{ name: 5 }] }))).to.contain('$.resources[0].name');
    expect(wrong(file().subarray(0, 300))).to.contain('beds.page.json');
  });

  it('cuts secrets as a HAR is cut', () => {
    const { capture } = only(
      file({ resources: [resource('https://www.fernhollow.example/j.js?access_token=s3cr3t-fern', 'script')] }),
    );
    expect(JSON.stringify(capture)).not.to.contain('s3cr3t-fern');
  });
});
