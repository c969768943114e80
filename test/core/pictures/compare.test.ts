import { expect } from 'chai';
import { comparisonTable } from '../../../src/core/handover/comparisonTable';
import {
  compareFacts,
  compareFiles,
  comparePages,
  compareProbes,
  statesOf,
  type FactsOfPage,
  type SweepComparison,
} from '../../../src/core/pictures/compare';
import type { SweepFile } from '../../../src/core/pictures/files';
import type { SweepCause } from '../../../src/core/site/news';

const at = (path: string) => `https://www.fernhollow.example${path}`;
const page = (captureId: number, lcpMs: number) => ({
  captureId,
  lcpMs,
  fcpMs: lcpMs / 2,
  bytes: 1000,
  title: `page ${captureId}`,
});
const file = (url: string, bytes: number, captures: number[]): SweepFile =>
  ({ url, bytes, uses: captures.map((id) => [id, bytes, bytes] as const) }) as unknown as SweepFile;
const cause = (id: string, concern: SweepCause['concern']): SweepCause => ({
  cause: id,
  check: 'a-check',
  concern,
  harm: 'slow',
  title: `cause ${id}`,
  pages: [at('/')],
});

describe('core/pictures: two sweeps', () => {
  it('puts the biggest movers first and pages of one sweep last', () => {
    const pages = comparePages(
      new Map([
        [at('/'), page(1, 4000)],
        [at('/a'), page(2, 1000)],
        [at('/old'), page(3, 1)],
      ]),
      new Map([
        [at('/'), page(11, 3900)],
        [at('/a'), page(12, 2000)],
        [at('/new'), page(13, 1)],
      ]),
    );
    expect(pages.map((p) => p.page)).to.deep.equal([at('/a'), at('/'), at('/new'), at('/old')]);
    expect(pages[0]?.then?.captureId).to.equal(2);
    expect(pages[2]?.then).to.equal(undefined);
    expect(pages[3]?.now).to.equal(undefined);
  });

  it('calls a file gone or new only where a page of both sweeps tells it', () => {
    const both = { then: new Set([1]), now: new Set([11]) };
    const files = compareFiles(
      [file('a', 1000, [1]), file('b', 5000, [1, 2]), file('c', 100, [1]), file('elsewhere', 9, [2])],
      [file('a', 3000, [11]), file('b', 5100, [11]), file('d', 800, [11]), file('elsewhere2', 9, [12])],
      both,
    );
    expect(files).to.deep.equal([
      { url: 'a', then: 1000, now: 3000, pages: 1 },
      { url: 'd', then: undefined, now: 800, pages: 1 },
      { url: 'c', then: 100, now: undefined, pages: 1 },
    ]);
  });

  it('names each fact that changed', () => {
    const facts: FactsOfPage = {
      status: '200',
      title: 'Visit',
      canonical: null,
      robots: null,
      redirect: null,
      template: '/*',
    };
    expect(
      compareFacts([
        { page: at('/visit/'), then: facts, now: { ...facts, title: 'Visit us', robots: 'noindex' } },
        { page: at('/'), then: facts, now: { ...facts, canonical: '' } },
      ]),
    ).to.deep.equal([
      { page: at('/visit/'), fact: 'title', then: 'Visit', now: 'Visit us' },
      { page: at('/visit/'), fact: 'robots', then: null, now: 'noindex' },
    ]);
  });

  it('says which entrance and which certificate fares better or worse', () => {
    const way = (from: string, verdict: 'direct' | 'temporary' | 'chain' | 'redirects properly') => ({
      from,
      verdict,
      family: 'IPv4',
      why: 'entrance',
    });
    const changes = compareProbes(
      {
        entrances: [
          way('http://a.example/', 'temporary'),
          way('http://b.example/', 'direct'),
          way('http://c.example/', 'chain'),
        ],
        certificates: [
          { host: 'a.example', faults: ['expired'] },
          { host: 'b.example', faults: [] },
        ],
      },
      {
        entrances: [
          way('http://a.example/', 'redirects properly'),
          way('http://b.example/', 'direct'),
          way('http://c.example/', 'temporary'),
          way('http://d.example/', 'chain'),
        ],
        certificates: [
          { host: 'a.example', faults: [] },
          { host: 'b.example', faults: ['ends soon'] },
        ],
      },
    );
    expect(changes.map((c) => [c.from, c.then, c.now, c.better])).to.have.deep.members([
      ['http://a.example/', 'temporary', 'redirects properly', true],
      ['http://c.example/', 'chain', 'temporary', undefined],
      ['a.example', 'expired', 'no fault', true],
      ['b.example', 'no fault', 'ends soon', false],
    ]);
  });

  it('writes every part as a table, findings by their state', () => {
    const found: SweepComparison = {
      then: { id: 1, day: '2026-11-05' },
      now: { id: 2, day: '2026-11-26' },
      device: 'phone',
      pages: comparePages(new Map([[at('/'), page(1, 4000.4)]]), new Map([[at('/'), page(2, 3000.6)]])),
      news: {
        appeared: [cause('n', 'hero')],
        cameBack: [],
        gone: [cause('g', 'weight')],
        stayed: 1,
        notLookedAt: [],
        pagesAdded: [],
        pagesDropped: [],
      },
      stayed: [cause('s', 'hero')],
      files: [{ url: 'a', then: 1, now: undefined, pages: 2 }],
      facts: [],
      pagesOfBoth: 3,
    };
    expect(comparisonTable(found, 'pages').rows[0]).to.include.members([4000, 3001]);
    expect(comparisonTable(found, 'findings').rows.map((r) => r[0])).to.deep.equal(['new', 'gone', 'stayed']);
    expect(comparisonTable(found, 'findings', 'hero').rows.map((r) => r[0])).to.deep.equal(['new', 'stayed']);
    expect(comparisonTable(found, 'files').rows).to.deep.equal([['a', 1, undefined, 2]]);
    expect(comparisonTable(found, 'entrances').rows).to.deep.equal([]);
    expect(statesOf(found).reduce((n, s) => n + s.list.length, 0)).to.equal(3);
  });
});
