import { expect } from 'chai';
import fc from 'fast-check';
import { simulate } from '../../src/core/load/simulate';
import { VISITORS } from '../../src/core/load/visitors';
import { journey, loadsInSpan, zoomed } from '../../src/islands/charts/story/journey';
import { storySide } from '../../src/islands/charts/story/storyLayout';
import { planCompareLayout } from '../../src/islands/charts/planCompareLayout';
import { splitLayout, SPLIT_PARTS } from '../../src/islands/charts/splitLayout';
import { faultyPage } from '../fixtures/faultyPage';

const phone = VISITORS[0] as (typeof VISITORS)[number];
const { graph } = faultyPage();
const replay = simulate(graph, phone);

describe('islands/charts/story', () => {
  it('travels from the navigation to the paint, each step with its reason', () => {
    const steps = journey(graph, replay);
    expect(steps.at(-1)).to.include({ key: 'paint', toMs: replay.milestones.lcpMs });
    expect(steps.map((s) => s.name)).to.include('hero.jpg');
    let at = 0;
    for (const s of steps) {
      expect(s.fromMs).to.be.at.least(at);
      at = s.fromMs;
      expect(s.toMs).to.be.at.least(s.fromMs);
      expect(s.text).to.match(/\.$/);
      if (s.waitedMs >= 20) expect(s.text).to.match(/^waited /);
    }
  });

  it('finds every step in a row of the story, so that it can be marked', () => {
    const rows = new Set(storySide(graph, replay, replay.milestones.lcpMs * 1.1).rows.map((r) => r.key));
    for (const s of journey(graph, replay))
      if (s.key !== 'paint' && s.toMs - s.fromMs > 20) expect(rows).to.include(s.key);
  });

  it('gives every load a row of its own when it is opened', () => {
    const closed = storySide(graph, replay, 20_000);
    const opened = storySide(graph, replay, 20_000, { opened: true });
    expect(opened.others).to.equal(0);
    expect(opened.rows.length).to.equal(closed.rows.length + closed.others);
    expect(new Set(opened.rows.map((r) => r.key)).size).to.equal(opened.rows.length);
  });

  it('lists the loads of a span, all of them for the whole load', () => {
    const all = loadsInSpan(graph, replay, 0, Infinity);
    expect(all.length).to.equal(
      graph.fetches.filter((f) => !f.refused && (replay.fetches[f.id]?.foundMs ?? -1) >= 0).length,
    );
    const hero = all.find((l) => l.name === 'hero.jpg');
    const inside = loadsInSpan(graph, replay, (hero?.toMs ?? 0) - 1, hero?.toMs ?? 0);
    expect(inside.map((l) => l.name)).to.include('hero.jpg');
    expect(loadsInSpan(graph, replay, 1e6, 2e6)).to.deep.equal([]);
  });

  it('zooms without leaving the load, and never to nothing', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 100, max: 60_000 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.constantFrom(0.5, 1, 2, 8),
        (until, a, b, factor) => {
          const span: [number, number] = [Math.min(a, b) * until, Math.max(a, b) * until];
          const [from, to] = zoomed(span, factor, until);
          expect(from).to.be.at.least(0);
          expect(to).to.be.at.most(until);
          expect(to - from).to.be.at.least(Math.min(40, until) - 1e-6);
        },
      ),
    );
  });
});

describe('islands/charts/split', () => {
  it('puts the four parts end to end over the whole of the hero’s time', () => {
    const parts = splitLayout(replay.split, replay.milestones.lcpMs, 600);
    expect(parts.map((p) => p.key)).to.deep.equal(SPLIT_PARTS.map((p) => p.key));
    let at = 0;
    for (const p of parts) {
      expect(p.x).to.be.closeTo(at, 0.001);
      at += p.width;
    }
    expect(at).to.be.closeTo(600, 0.01);
  });

  it('shares a scale with a longer one', () => {
    const parts = splitLayout({ serverMs: 100, untilFoundMs: 100, transferMs: 100, untilPaintedMs: 100 }, 800, 400);
    expect(parts.reduce((sum, p) => sum + p.width, 0)).to.be.closeTo(200, 0.001);
  });
});

describe('islands/charts/plans', () => {
  const plan = (key: string, afterMs: number) => ({
    key,
    name: key,
    nowMs: 6000,
    afterMs,
    range: [afterMs - 300, afterMs + 300] as const,
    effort: 60,
  });

  it('puts plans on one axis, one row each, ranges around where they lead', () => {
    const { marks, height, ticks, x } = planCompareLayout([plan('a', 3000), plan('b', 4000)], 700);
    expect(marks.map((m) => m.key)).to.deep.equal(['a', 'b']);
    for (const m of marks) {
      expect(m.low).to.be.below(m.after);
      expect(m.high).to.be.above(m.after);
      expect(m.y).to.be.below(height);
      expect(m.now).to.equal(x(6000));
    }
    expect(ticks[0]).to.equal(0);
  });

  it('has an axis also for no plan at all', () => {
    expect(planCompareLayout([], 400).marks).to.deep.equal([]);
  });
});
