import { expect } from 'chai';
import { mergeRuns } from '../../src/engine/record/runs';
import type { HarPage } from '../../src/engine/record/writeHar';

interface MadeRun {
  readonly lcpMs: number;
  readonly hero?: string;
  /** What it asks for besides its script. */
  readonly pictures?: readonly string[];
  readonly scriptMs?: number;
}

const PICTURES = Array.from({ length: 19 }, (_, i) => `/${i}.jpg`);

const run = ({ lcpMs, hero = '/hero.jpg', pictures = PICTURES, scriptMs = 30 }: MadeRun): HarPage =>
  ({
    page: { id: `run ${lcpMs}`, _lens: {} },
    entries: [
      { request: { url: '/app.js' }, timings: { connect: 40, ssl: 25, wait: lcpMs / 10 }, _lens: { kind: 'script' } },
      ...pictures.map((url) => ({ request: { url }, timings: {}, _lens: { kind: 'image' } })),
    ],
    fcpMs: lcpMs / 2,
    lcpMs,
    fcpPaintMs: lcpMs / 2 - 30,
    lcpPaintMs: lcpMs - 50,
    hero,
    requests: 1 + pictures.length,
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
      { fcpMs: 450, lcpMs: 900, fcpPaintMs: 420, lcpPaintMs: 850 },
      { fcpMs: 700, lcpMs: 1400, fcpPaintMs: 670, lcpPaintMs: 1350 },
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
    expect(mergeRuns([run({ lcpMs: 900 }), run({ lcpMs: 300, pictures: ['/0.jpg', '/1.jpg'] })]).lcpMs).to.equal(900);
  });

  it('asks of no run what only one asked for: the icon of the site, addresses that are new each time', () => {
    const first = run({ lcpMs: 900, pictures: ['/hero.jpg', '/favicon.ico', '/ad?n=1'] });
    const others = [650, 700].map((lcpMs) => run({ lcpMs, pictures: ['/hero.jpg', `/ad?n=${lcpMs}`] }));
    expect(mergeRuns([first, ...others]).lcpMs).to.equal(650);
    expect(mergeRuns([first, ...others.slice(1)]).lcpMs, 'of two runs').to.equal(700);
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
