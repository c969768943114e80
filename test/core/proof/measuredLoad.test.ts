import { expect } from 'chai';
import { simulate } from '../../../src/core/load/simulate';
import { VISITORS } from '../../../src/core/load/visitors';
import { measuredReplay, typicalOf, type MeasuredLoad } from '../../../src/core/proof/measuredLoad';
import { auditOf, PAGE } from '../../fixtures/har';

const phone = VISITORS.find((v) => v.id === 'phone-busy')!;
const HEAD = `${PAGE}js/head.js`;
const HERO = `${PAGE}hero.jpg`;

const visit = (lcpMs: number, requests: MeasuredLoad['requests'] = []): MeasuredLoad => ({
  fcpMs: lcpMs - 200,
  lcpMs,
  loadMs: lcpMs + 500,
  cls: 0,
  bytes: 70_000,
  requests,
});
const request = (url: string, foundMs: number, endMs: number) => ({
  url,
  foundMs,
  sentMs: foundMs + 10,
  firstByteMs: endMs - 10,
  endMs,
});

describe('core/proof: measured loads', () => {
  const { graph } = auditOf(
    '<!doctype html><html><head><title>Garden</title><script src="/js/head.js"></script></head><body><img src="/hero.jpg" width="400" height="300"></body></html>',
    [
      { url: HEAD, body: 'var a=1;'.repeat(2000), start: 60, wait: 20 },
      { url: HERO, bytes: 60_000, start: 60, wait: 20 },
    ],
    { hero: { timeMs: 600, size: 120_000, tag: 'img', url: HERO } },
    PAGE,
  );
  const forecast = simulate(graph, phone);

  it('takes the visit in the middle', () => {
    expect(typicalOf([visit(900), visit(500), visit(700)])?.lcpMs).to.equal(700);
    expect(typicalOf([visit(900), visit(500)])?.lcpMs).to.equal(500);
    expect(typicalOf([])).to.equal(undefined);
  });

  it('tells the same story with the times that were measured', () => {
    const load = visit(1400, [request(PAGE, 2, 300), request(HEAD, 310, 700), request(HERO, 320, 1300)]);
    const made = measuredReplay(graph, forecast, load);
    expect(made.milestones).to.include({ fcpMs: 1200, lcpMs: 1400, loadMs: 1900, bytes: 70_000, requests: 3 });
    expect(made.milestones.ttfbMs).to.equal(290);
    const at = (url: string) => made.fetches[graph.fetches.findIndex((f) => f.url === url)];
    expect(at(HERO)).to.include({ foundMs: 320, sentMs: 330, firstByteMs: 1290, endMs: 1300 });
    expect(at(HERO)?.cause).to.deep.equal(forecast.fetches[graph.hero.fetch]?.cause);
    expect(made.heroPlace).to.equal(3);
    const last = made.path.at(-1);
    expect(last).to.include({ kind: 'paint', fromMs: 1300, toMs: 1400 });
    expect(made.path.some((s) => s.kind === 'script')).to.equal(false);
    for (const step of made.path) expect(step.fromMs).to.be.at.most(step.toMs);
  });

  it('leaves out what was not asked for, and tells two requests of one address apart', () => {
    const made = measuredReplay(graph, forecast, visit(1400, [request(PAGE, 2, 300)]));
    expect(made.fetches[graph.hero.fetch]).to.include({ foundMs: -1, endMs: -1 });
    expect(made.heroPlace).to.equal(0);
    expect(made.path.every((s) => s.kind === 'paint' || graph.fetches[s.id]?.url === PAGE)).to.equal(true);
  });
});
