import { expect } from 'chai';
import fc from 'fast-check';
import {
  checkLimit,
  judgeLimit,
  limitedValue,
  limitText,
  resultText,
  type WatchFacts,
  type WatchLimit,
} from '../../../src/core/watch/limits';
import type { PageFigures } from '../../../src/core/watch/figures';

const limit = (more: Partial<WatchLimit> = {}): WatchLimit => ({
  figure: 'lcpMs',
  visitor: 'phone-busy',
  scope: { kind: 'all' },
  bound: 2500,
  tolerance: 0.1,
  ...more,
});

const page = (name: string, lcp: number, template?: string): PageFigures => ({
  captureId: 1,
  page: `https://www.fernhollow.example/${name}`,
  template,
  lcpMs: { value: lcp, range: [lcp - 300, lcp + 300] },
  fcpMs: { value: 900, range: [800, 1000] },
  loadMs: { value: 5000, range: [4000, 6000] },
  cls: { value: 0.1234 },
  bytes: { value: 1_000_000 },
  requests: { value: 40 },
  findings: [
    { concern: 'hero', harm: 'slow', count: 2 },
    { concern: 'mixed', harm: 'broken', count: 1 },
  ],
});

const facts: WatchFacts = {
  pages: [page('', 2000, 'a'), page('talks/', 4000, 'b')],
  news: [{ concern: 'mixed', harm: 'broken' }],
  certificateDays: 9,
  faultyEntrances: 0,
};

describe('core/watch/limits', () => {
  it('takes the average of the pages in its scope, and their ranges with it', () => {
    expect(limitedValue(limit(), facts)).to.deep.equal({ value: 3000, range: [2700, 3300] });
    expect(limitedValue(limit({ scope: { kind: 'template', template: 'b' } }), facts)?.value).to.equal(4000);
    expect(
      limitedValue(limit({ scope: { kind: 'page', page: 'https://www.fernhollow.example/' } }), facts)?.value,
    ).to.equal(2000);
    expect(
      limitedValue(limit({ scope: { kind: 'page', page: 'https://www.fernhollow.example/gone' } }), facts),
    ).to.equal(undefined);
    expect(limitedValue(limit({ figure: 'cls' }), facts)).to.deep.equal({ value: 0.123 });
  });

  it('counts facts of the pages that a sweep visited, of the site or of one page', () => {
    const none = {
      brokenPages: 0,
      missingLinks: 0,
      redirectedLinks: 0,
      httpMentions: 0,
      noindexPages: 0,
      canonicalElsewhere: 0,
    };
    const crawled = [
      { ...none, page: 'https://www.fernhollow.example/', missingLinks: 3, answerMs: 100 },
      { ...none, page: 'https://www.fernhollow.example/gone/', brokenPages: 1, noindexPages: 1, answerMs: 300 },
      { ...none, page: 'https://www.fernhollow.example/talks/', missingLinks: 1 },
    ];
    const value = (more: Partial<WatchLimit>) => limitedValue(limit(more), { ...facts, crawled })?.value;
    expect(value({ figure: 'missingLinks' })).to.equal(4);
    expect(value({ figure: 'brokenPages' })).to.equal(1);
    expect(value({ figure: 'answerMs' })).to.equal(200);
    const scope = { kind: 'page', page: 'https://www.fernhollow.example/talks/' } as const;
    expect(value({ figure: 'missingLinks', scope })).to.equal(1);
    expect(value({ figure: 'answerMs', scope })).to.equal(undefined);
    expect(limitedValue(limit({ figure: 'missingLinks' }), facts), 'nothing was visited').to.equal(undefined);
    expect(limitText(limit({ figure: 'missingLinks', bound: 0 }))).to.equal(
      'Links to missing pages of the site: at most 0',
    );
    // Counted, there is no noise; a response time has to be slow twice.
    expect(judgeLimit(limit({ figure: 'missingLinks', bound: 0, tolerance: 0 }), { value: 1 }, false).broken).to.equal(
      true,
    );
    const slow = limit({ figure: 'answerMs', bound: 200 });
    expect(judgeLimit(slow, { value: 900 }, false)).to.include({ over: true, broken: false });
    expect(judgeLimit(slow, { value: 900 }, true).broken).to.equal(true);
    expect(() => checkLimit(limit({ figure: 'noindexPages', scope: { kind: 'template', template: 'a' } }))).to.throw(
      'of the site or of one page',
    );
  });

  it('counts findings by concern and harm, and new ones of the whole site', () => {
    expect(limitedValue(limit({ figure: 'findings' }), facts)?.value).to.equal(6);
    expect(limitedValue(limit({ figure: 'findings', harm: 'broken' }), facts)?.value).to.equal(2);
    expect(limitedValue(limit({ figure: 'newFindings', concern: 'hero' }), facts)?.value).to.equal(0);
    expect(limitedValue(limit({ figure: 'newFindings' }), { ...facts, news: undefined })).to.equal(undefined);
  });

  it('is not broken by noise: the whole range has to pass it, or two sweeps in a row', () => {
    const now = { value: 2800, range: [2400, 3200] as const };
    expect(judgeLimit(limit(), now, false)).to.include({ over: true, broken: false });
    expect(judgeLimit(limit(), now, true)).to.include({ over: true, broken: true });
    expect(judgeLimit(limit(), { value: 2800, range: [2600, 3200] }, false)).to.include({ broken: true });
    expect(judgeLimit(limit(), { value: 2700, range: [2600, 3200] }, true)).to.include({ over: false, broken: false });
    expect(judgeLimit(limit({ figure: 'bytes', bound: 900_000 }), { value: 1_000_000 }, false)).to.include({
      broken: false,
    });
  });

  it('is broken at once by what is counted, and by days that run out', () => {
    expect(judgeLimit(limit({ figure: 'findings', bound: 2, tolerance: 0 }), { value: 3 }, false).broken).to.equal(
      true,
    );
    expect(judgeLimit(limit({ figure: 'certificateDays', bound: 14 }), { value: 9 }, false).broken).to.equal(true);
    expect(judgeLimit(limit({ figure: 'certificateDays', bound: 14 }), { value: 14 }, false).broken).to.equal(false);
  });

  it('is said in a line', () => {
    expect(resultText(limit({ figure: 'certificateDays', bound: 14 }), { value: -4 })).to.equal(
      'Days until a certificate ends: ended 4 days ago; at least 14 days wanted',
    );
    expect(limitText(limit())).to.equal('Hero paint (LCP) of the site: at most 2.5 s');
    expect(limitText(limit({ figure: 'certificateDays', bound: 14 }))).to.equal(
      'Days until a certificate ends: at least 14 days',
    );
    expect(
      resultText(limit({ figure: 'findings', concern: 'mixed', harm: 'broken', bound: 0 }), { value: 3 }),
    ).to.equal('Findings (Mixed content, broken): 3; at most 0 wanted');
  });

  it('refuses what cannot be judged', () => {
    const refused = (l: WatchLimit) => expect(() => checkLimit(l)).to.throw();
    expect(() => checkLimit(limit())).not.to.throw();
    refused(limit({ bound: -1 }));
    refused(limit({ bound: NaN }));
    refused(limit({ tolerance: 11 }));
    refused(limit({ harm: 'broken' }));
    refused(limit({ figure: 'certificateDays', scope: { kind: 'page', page: 'https://www.fernhollow.example/' } }));
  });

  it('is never broken where it is not passed', () => {
    fc.assert(
      fc.property(fc.nat(10_000), fc.nat(10_000), fc.boolean(), fc.nat(1000), (bound, value, before, spread) => {
        const result = judgeLimit(limit({ bound }), { value, range: [value - spread, value + spread] }, before);
        if (value <= bound) expect(result.broken).to.equal(false);
        if (result.broken) expect(result.over).to.equal(true);
      }),
    );
  });
});
