import { expect } from 'chai';
import { judge, rankCorrelations } from '../../bench/accuracy/judge';
import type { Case, Figure } from '../../bench/accuracy/compare';
import { spreadOf, type PageTruth } from '../../bench/accuracy/store';
import { accuracyLayout } from '../../src/islands/charts/accuracyLayout';

const figure = (change: number, forecast: number, more: Partial<Figure> = {}): Figure => ({
  base: 2000,
  change,
  noise: 10,
  forecastBase: 2000,
  forecast,
  range: [forecast - 50, forecast + 50],
  ...more,
});
const made = (variant: string, change: number, forecast: number): Case => ({
  page: 'gate',
  held: false,
  late: false,
  outside: false,
  link: 'busy',
  variant,
  kinds: ['hero-eager'],
  combined: false,
  fcp: figure(0, 0),
  lcp: figure(change, forecast),
});

describe('bench/accuracy', () => {
  it('judges errors as shares of the base, signs, phantom wins and ranges', () => {
    const v = judge([figure(-500, -400), figure(-500, 300), figure(10, -900), figure(0, 20)]);
    expect(v.median).to.be.closeTo((0.05 + 0.4) / 2, 1e-9);
    expect(v.within25).to.equal(0.5);
    expect(v).to.include({ clear: 2, sign: 0.5, still: 2, quiet: 0.5, inside: 0.25 });
    expect(v.width).to.be.closeTo(0.05, 1e-9);
  });

  it('counts a direction only where more than 8 % changed', () => {
    const v = judge([figure(-150, 0), figure(-170, -20), figure(300, -20)]);
    expect(v).to.include({ clear: 3, different: 2, direction: 0.5 });
    expect(v.sign).to.be.closeTo(1 / 3, 1e-9);
  });

  it('tells how far single runs lie apart by their number: more of the same lie further apart', () => {
    const measured = (runs: number, noise: number): PageTruth => {
      const sample = {
        ...{ runs, fcpMs: 1000, lcpMs: 2000, loadMs: 2500, ttfbMs: 100, cls: 0 },
        ...{ fcpNoise: noise, lcpNoise: 2 * noise, hero: '' },
      };
      return {
        ...{ page: 'gate', fingerprint: '', measuredOn: '', browser: '' },
        variants: [{ name: 'as it is', fixes: [], links: { busy: sample } }],
      };
    };
    expect(spreadOf(measured(5, 116.3))).to.be.closeTo(0.1, 1e-6);
    expect(spreadOf(measured(3, 84.65))).to.be.closeTo(0.1, 1e-6);
    expect(spreadOf(measured(3, 100))).to.be.greaterThan(spreadOf(measured(5, 110)));
    expect(spreadOf(measured(20, 142.35))).to.be.closeTo(0.1, 1e-6);
  });

  it('correlates ranks, and takes what lies within doubt for a tie', () => {
    const right = [made('a', -900, -700), made('b', -400, -300), made('c', 0, 0)];
    expect(rankCorrelations(right)[0]?.rho).to.be.closeTo(1, 1e-9);
    const wrong = [made('a', -900, 0), made('b', -400, -300), made('c', 0, -700)];
    expect(rankCorrelations(wrong)[0]?.rho).to.be.closeTo(-1, 1e-9);
    expect(rankCorrelations([made('a', -20, 30), made('b', 10, -10)])).to.deep.equal([]);
    // No order where there is one to be found is no success.
    expect(rankCorrelations([made('a', -900, 0), made('b', 0, 0)])[0]?.rho).to.equal(0);
  });

  it('puts a right forecast on the line, and what is beyond the scale at its edge', () => {
    const point = {
      page: 'gate',
      variant: 'x',
      link: 'busy',
      held: false,
      metric: 'LCP' as const,
      base: 1000,
      low: 0,
      high: 0,
    };
    const { dots, lines } = accuracyLayout(
      [
        { ...point, measured: -300, forecast: -300 },
        { ...point, measured: 0, forecast: 5000 },
      ],
      400,
    );
    const [line] = lines;
    const slope = ((line?.y2 ?? 0) - (line?.y1 ?? 0)) / ((line?.x2 ?? 0) - (line?.x1 ?? 1));
    expect((dots[0]?.y ?? 0) - (line?.y1 ?? 0)).to.be.closeTo(slope * ((dots[0]?.x ?? 0) - (line?.x1 ?? 0)), 1e-6);
    expect(dots[1]?.y).to.equal(8);
  });
});
