import { expect } from 'chai';
import { disagreements } from '../../../src/core/field/disagreement';
import type { FieldRow } from '../../../src/core/field/fieldData';
import { fitMix, mixQuantile, p75Change, type FieldPage } from '../../../src/core/field/fitVisitors';
import { linksOf, WEIGHTS, type Mix } from '../../../src/core/field/mix';
import { applyFixes } from '../../../src/core/fixes/applyFixes';
import { PERTURBATIONS } from '../../../src/core/load/range';
import { simulate } from '../../../src/core/load/simulate';
import { auditOf, PAGE } from '../../fixtures/har';

/** Pages that weigh on the link, on the round trip and on the processor in different ways. */
const AUDITS = [
  { url: PAGE, kilobytes: 40, scripts: 2, workMs: 10 },
  { url: `${PAGE}heavy/`, kilobytes: 900, scripts: 1, workMs: 20 },
  { url: `${PAGE}busy/`, kilobytes: 60, scripts: 4, workMs: 220 },
  { url: `${PAGE}deep/`, kilobytes: 200, scripts: 8, workMs: 60 },
].map(({ url, kilobytes, scripts, workMs }) =>
  auditOf(
    `<!doctype html><title>x</title>${Array.from({ length: scripts }, (_, i) => `<script src="${url}s${i}.js"></script>`).join('')}<h1>Beds</h1><img src="${url}hero.jpg" width="400" height="400" alt="">`,
    [
      ...Array.from({ length: scripts }, (_, i) => ({ url: `${url}s${i}.js`, bytes: 30_000, start: 60 + i })),
      { url: `${url}hero.jpg`, bytes: kilobytes * 1000, start: 62 },
    ],
    {
      work: Array.from({ length: scripts }, (_, i) => ({
        kind: 'script' as const,
        url: `${url}s${i}.js`,
        startMs: 100 + i * 50,
        durationMs: workMs,
      })) as never,
    },
    url,
  ),
);

/** p75s of many visits of a mix, each with an error of its own. */
function visitsOf(mix: Mix, graph: (typeof AUDITS)[number]['graph']): FieldRow['p75'] {
  const values = (metric: 'ttfbMs' | 'fcpMs' | 'lcpMs') => {
    const all = linksOf(mix).flatMap((link, k) =>
      PERTURBATIONS.map((p) => ({ ms: simulate(graph, link, p).milestones[metric], w: WEIGHTS[k] ?? 0 })),
    );
    all.sort((a, b) => a.ms - b.ms);
    const total = all.reduce((sum, v) => sum + v.w, 0);
    let below = 0;
    return all.find((v) => (below += v.w) >= 0.75 * total)?.ms ?? 0;
  };
  return { ttfbMs: values('ttfbMs'), fcpMs: values('fcpMs'), lcpMs: values('lcpMs') };
}

const pagesOf = (mix: Mix): FieldPage[] =>
  AUDITS.map(({ page, graph }) => ({
    page: page.capture.page,
    graph,
    row: {
      of: 'page',
      address: page.capture.page,
      device: 'phone',
      month: '2026-10',
      p75: visitsOf(mix, graph),
      shares: {},
    },
  }));

describe('core/field/fitVisitors', function () {
  this.timeout(60_000);
  const truth: Mix = { rttMs: 110, downKbps: 3500, cpuFactor: 3, spread: 1.6 };

  it('gets a known mix back from nothing but p75s', () => {
    const fitted = fitMix(pagesOf(truth));
    expect(fitted.error).to.be.below(0.06);
    expect(fitted.mix.rttMs / truth.rttMs).to.be.within(0.85, 1.15);
    expect(fitted.mix.downKbps / truth.downKbps).to.be.within(0.85, 1.15);
    expect(fitted.spans.rttMs[0]).to.be.at.most(fitted.mix.rttMs);
    expect(fitted.spans.rttMs[1]).to.be.at.least(fitted.mix.rttMs);
    const p75 = fitted.p75Visitor;
    const at = { ...p75, upKbps: p75.downKbps / 2.5 };
    for (const p of pagesOf(truth))
      expect(simulate(p.graph, at).milestones.lcpMs / (p.row.p75.lcpMs ?? 1)).to.be.within(0.85, 1.15);
  });

  it('forecasts the p75 after fixes as the visits of that mix would have it', () => {
    const pages = pagesOf(truth);
    const fixed = AUDITS.map((a) => applyFixes(a.graph, a.fixes));
    const fitted = fitMix(pages);
    const change = p75Change(
      pages.map((p, i) => ({ now: p.graph, after: fixed[i] ?? p.graph, visits: 1 })),
      fitted.mix,
      0.1,
    );
    const pooled = (graphs: typeof fixed) => {
      const all = graphs.flatMap((g) =>
        linksOf(truth).flatMap((l, k) =>
          PERTURBATIONS.map((p) => ({ ms: simulate(g, l, p).milestones.lcpMs, w: WEIGHTS[k] ?? 0 })),
        ),
      );
      all.sort((a, b) => a.ms - b.ms);
      let below = 0;
      const total = all.reduce((sum, v) => sum + v.w, 0);
      return all.find((v) => (below += v.w) >= 0.75 * total)?.ms ?? 0;
    };
    const [before, after] = [pooled(pages.map((p) => p.graph)), pooled(fixed)];
    expect(change.beforeMs / before).to.be.within(0.92, 1.08);
    expect(change.afterMs / after).to.be.within(0.92, 1.08);
    expect(change.range[0]).to.be.at.most(change.afterMs);
    expect(change.range[1]).to.be.at.least(change.afterMs);
  });

  it('says what the data cannot tell: pages without weight say nothing of the rate', () => {
    const light = pagesOf({ ...truth, downKbps: 60_000 }).slice(0, 1);
    const { spans, mix } = fitMix(light);
    expect(spans.downKbps[1] / spans.downKbps[0]).to.be.above(2);
    expect(mix.downKbps).to.be.within(150, 200_000);
  });

  it('takes quantiles of a mixture', () => {
    expect(mixQuantile([1000], [1], 0.5)).to.be.closeTo(1000, 1);
    expect(mixQuantile([1000, 9000], [0.9, 0.1], 0.5)).to.be.within(1000, 1100);
    expect(mixQuantile([1000, 9000], [0.5, 0.5], 0.75)).to.be.closeTo(9000, 40);
  });
});

describe('core/field/disagreement', () => {
  const row = (p75: FieldRow['p75'], of: FieldRow['of'] = 'page'): FieldRow => ({
    of,
    address: PAGE,
    device: 'phone',
    month: '',
    p75,
    shares: {},
  });
  const lab = { ttfbMs: 600, fcpMs: 2000, lcpMs: 3000, cls: 0.01, redirects: 0 };
  const reasons = (p75: FieldRow['p75'], of?: FieldRow['of']) =>
    disagreements(lab, row(p75, of)).map((r) => r.reason.split(/[:,]/)[0]);

  it('finds none where field and lab agree', () => {
    expect(reasons({ ttfbMs: 650, fcpMs: 2100, lcpMs: 3100, cls: 0.02 })).to.deep.equal([]);
  });

  it('names a likely reason for each kind of difference', () => {
    expect(reasons({ ttfbMs: 1500 })).to.deep.equal(['A slow server at peak']);
    expect(reasons({ fcpMs: 900, lcpMs: 1900 })).to.deep.equal(['Visits with a filled cache']);
    expect(reasons({ fcpMs: 2000, lcpMs: 5000 })).to.deep.equal(['Another hero']);
    expect(reasons({ cls: 0.2 }, 'origin')).to.deep.equal([
      'Shifts that come later than the recording',
      'The figures are of the whole origin',
    ]);
  });
});
