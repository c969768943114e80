import { expect } from 'chai';
import { mergeRuns } from '../../src/engine/record/runs';
import type { HarPage } from '../../src/engine/record/writeHar';

interface MadeRun {
  readonly lcpMs: number;
  readonly hero?: string;
  readonly requests?: number;
  readonly scriptMs?: number;
}

const run = ({ lcpMs, hero = '/hero.jpg', requests = 20, scriptMs = 30 }: MadeRun): HarPage =>
  ({
    page: { id: `run ${lcpMs}`, _lens: {} },
    entries: [
      { request: { url: '/app.js' }, timings: { connect: 40, ssl: 25, wait: lcpMs / 10 }, _lens: { kind: 'script' } },
    ],
    fcpMs: lcpMs / 2,
    lcpMs,
    hero,
    requests,
    scriptMs: new Map([['/app.js', scriptMs]]),
    finalUrl: '',
    notes: [],
    browserVersion: '',
  }) as unknown as HarPage;

const lensOf = (page: HarPage) => page.page._lens as { otherRuns?: { fcpMs: number; lcpMs: number }[] };

describe('engine/record/runs: several recordings of one page', () => {
  it('lets the run speak that was held up least, with what the others took', () => {
    const merged = mergeRuns([run({ lcpMs: 900 }), run({ lcpMs: 700, scriptMs: 20 }), run({ lcpMs: 1400 })]);
    expect(merged.lcpMs).to.equal(700);
    expect(lensOf(merged).otherRuns).to.deep.equal([
      { fcpMs: 450, lcpMs: 900 },
      { fcpMs: 700, lcpMs: 1400 },
    ]);
    const [entry] = merged.entries as unknown as { _lens: { otherRuns: object[] } }[];
    expect(entry?._lens.otherRuns).to.deep.equal([
      { waitMs: 90, connectMs: 15, tlsMs: 25, scriptMs: 30 },
      { waitMs: 140, connectMs: 15, tlsMs: 25, scriptMs: 30 },
    ]);
  });

  it('does not let a run speak that shows another hero, or that asked for much less', () => {
    const runs = [run({ lcpMs: 900 }), run({ lcpMs: 950 }), run({ lcpMs: 300, hero: 'a notice' })];
    expect(mergeRuns(runs).lcpMs).to.equal(900);
    expect(mergeRuns([run({ lcpMs: 900 }), run({ lcpMs: 300, requests: 3 })]).lcpMs).to.equal(900);
  });

  it('keeps what the last run told of the scripts, whichever speaks', () => {
    const scripts = [{ url: '/app.js', chars: 100, ranChars: 30 }];
    const of = (lcpMs: number, more: object = {}): HarPage => ({
      ...run({ lcpMs }),
      page: { _lens: { observations: { largestPaints: [], ...more } } },
    });
    const merged = mergeRuns([of(700), { ...of(900, { scripts }), scripts }]);
    expect(merged.lcpMs).to.equal(700);
    expect(merged.page._lens.observations).to.deep.equal({ largestPaints: [], scripts });
  });

  it('leaves a single run as it is', () => {
    const one = run({ lcpMs: 900 });
    expect(mergeRuns([one])).to.equal(one);
  });
});
