import { expect } from 'chai';
import { VISITORS } from '../../../src/core/load/visitors';
import { benchFigures, benchRange, groupRanges } from '../../../src/core/plan/bench';
import { OVERLAP_MS } from '../../../src/core/plan/thresholds';
import { pagesIn, parseScope, scopeText } from '../../../src/core/plan/plan';
import { explain, forecast, trustOf, waitsOf } from '../../../src/core/plan/forecast';
import { averageWith } from '../../../src/core/plan/averages';
import { buildStaircase, groupFixes } from '../../../src/core/plan/staircase';
import { auditOf } from '../../fixtures/har';
import { faultyPage } from '../../fixtures/faultyPage';

const phone = VISITORS[0] as (typeof VISITORS)[number];
const audit = faultyPage();
const pages = [{ graph: audit.graph, fixes: audit.fixes }];

describe('core/plan/forecast', () => {
  it('says before, after, change and a range around the change', () => {
    const f = forecast(audit.graph, audit.fixes, phone);
    expect(f.change.lcpMs).to.be.closeTo(f.after.lcpMs - f.before.lcpMs, 0.001);
    for (const key of ['fcpMs', 'lcpMs', 'loadMs'] as const)
      expect(f.change[key]).to.be.within(...(f.range[key] as [number, number]));
    expect(f.change.lcpMs).to.be.below(-1000);
  });

  it('simulates combined fixes once: together they win less than the sum', () => {
    const alone = audit.fixes.reduce((sum, f) => sum + Math.min(0, forecast(audit.graph, [f], phone).change.lcpMs), 0);
    expect(forecast(audit.graph, audit.fixes, phone).change.lcpMs).to.be.above(alone);
  });

  it('forecasts a visit a day later, and says what every milestone waits for', () => {
    const first = forecast(audit.graph, audit.fixes, phone);
    const again = forecast(audit.graph, audit.fixes, phone, 'again');
    expect(again.before.lcpMs).to.be.at.most(first.before.lcpMs + 20);
    expect(again.change.lcpMs).to.be.closeTo(again.after.lcpMs - again.before.lcpMs, 0.001);
    const { before, after } = waitsOf(audit.graph, audit.fixes, phone);
    expect(before.fcp).to.include('head.js');
    expect(before.lcp).to.include('hero.jpg');
    expect(before.load.at(-1)).to.match(/\.jpg$/);
    expect(after.fcp).not.to.include('head.js');
  });

  it('forecasts exactly nothing for no fixes', () => {
    expect(forecast(audit.graph, [], phone).change).to.deep.equal({ fcpMs: 0, lcpMs: 0, loadMs: 0, bytes: 0 });
    expect(forecast(audit.graph, [], phone).range.lcpMs).to.deep.equal([0, 0]);
  });

  it('holds the recording against its own simulation', () => {
    const trust = trustOf(audit.graph);
    expect(trust.recordedLcpMs).to.equal(400);
    expect(trust.gap).to.be.closeTo((trust.reenactedLcpMs - 400) / 400, 1e-9);
    expect(trustOf(auditOf('<p>x').graph).gap).to.equal(undefined);
  });

  it('names what the hero no longer waits for', () => {
    const why = explain(
      audit.graph,
      audit.fixes.filter((f) => f.kind === 'hero-eager' || f.kind === 'hero-priority'),
      phone,
    ).join(' ');
    expect(why).to.match(/no longer waits for .*later\.js/);
  });
});

describe('core/plan/staircase', () => {
  const stairs = buildStaircase(pages, phone);

  it('only goes down, says what each step wins, and ends where all its fixes lead', () => {
    let at = stairs.nowMs;
    for (const s of stairs.stairs) {
      expect(s.wonMs).to.be.closeTo(at - s.lcpMs, 0.001);
      expect(s.lcpMs).to.be.within(s.range[0], s.range[1]);
      at = s.lcpMs;
    }
    const all = stairs.stairs.flatMap((s) => s.group.fixes);
    expect(averageWith(pages, all, phone).lcpMs).to.be.closeTo(at, 0.001);
  });

  it('starts with the fix that wins most alone', () => {
    const best = Math.min(...groupFixes(pages).map((g) => averageWith(pages, g.fixes, phone).lcpMs));
    expect(stairs.stairs[0]?.lcpMs).to.be.closeTo(best, 0.6);
    expect(stairs.paying).to.be.within(1, stairs.stairs.length);
  });

  it('has no stairs without pages or fixes', () => {
    expect(buildStaircase([], phone).stairs).to.deep.equal([]);
    expect(buildStaircase([{ graph: audit.graph, fixes: [] }], phone).stairs).to.deep.equal([]);
  });

  it('groups the same change of several pages', () => {
    const twice = groupFixes([
      pages[0],
      {
        graph: { ...audit.graph, page: 'https://b.example/' },
        fixes: audit.fixes.map((f) => ({ ...f, page: 'https://b.example/' })),
      },
    ] as never);
    const defer = twice.find((g) => g.kind === 'script-defer');
    expect(defer).to.include({ pages: 2, effort: 20 });
    expect(twice.find((g) => g.kind === 'hero-eager')?.title).to.equal('Load the heroes eagerly');
  });
});

describe('core/plan/bench', () => {
  const ids = groupFixes(pages).map((g) => g.id);

  it('adds up: the added effects of all groups are the whole change', () => {
    const b = benchFigures(pages, ids, phone);
    const sum = b.groups.reduce((s, g) => s + g.addedMs, 0);
    expect(b.after.lcpMs - b.now.lcpMs).to.be.closeTo(sum, 0.001);
    expect(b.pages[0]?.after.lcpMs).to.equal(b.after.lcpMs);
  });

  it('agrees with the forecast of the same fixes and ignores unknown groups', () => {
    const b = benchFigures(pages, [...ids, 'nothing'], phone);
    // A bench answers at once, by one simulation; a forecast is the middle of many. Both lie in its range.
    const { change, range: own } = forecast(audit.graph, audit.fixes, phone);
    for (const ms of [change.lcpMs, b.after.lcpMs - b.now.lcpMs]) expect(ms).to.be.within(own.lcpMs[0], own.lcpMs[1]);
    const range = benchRange(pages, ids, phone, b);
    expect(b.after.lcpMs).to.be.within(range.lcpMs[0], range.lcpMs[1]);
  });

  it('names the group that already wins what another would win alone', () => {
    const pairs = ids.flatMap((a) => ids.filter((b) => b !== a).map((b) => benchFigures(pages, [a, b], phone).groups));
    const overlap = (g: (typeof pairs)[number]) => (g[1]?.addedMs ?? 0) - (g[1]?.aloneMs ?? 0);
    const most = pairs.sort((a, b) => overlap(b) - overlap(a))[0] as (typeof pairs)[number];
    expect(overlap(most)).to.be.above(OVERLAP_MS);
    expect(most[0]?.coveredBy).to.equal(undefined);
    expect(most[1]?.coveredBy?.id).to.equal(most[0]?.id);
    expect(most[1]?.coveredBy?.ms).to.be.closeTo(overlap(most), 0.001);
    for (const g of pairs) if (overlap(g) <= OVERLAP_MS) expect(g[1]?.coveredBy).to.equal(undefined);
  });

  it('says ranges of what each group changes, with the estimate inside', () => {
    const b = benchFigures(pages, ids, phone);
    const ranges = groupRanges(pages, b, phone);
    expect(ranges.map((r) => r.id)).to.deep.equal(b.groups.map((g) => g.id));
    for (const [i, g] of b.groups.entries()) {
      expect(g.aloneMs).to.be.within(...(ranges[i]?.alone as [number, number]));
      expect(g.addedMs).to.be.within(...(ranges[i]?.added as [number, number]));
    }
  });
});

describe('core/plan/plan', () => {
  it('writes scopes into addresses and reads them back', () => {
    for (const scope of [
      { kind: 'all' },
      { kind: 'template', template: 't:1' },
      { kind: 'page', page: 'https://www.fernhollow.example/visit/?a=b:c' },
    ] as const)
      expect(parseScope(scopeText(scope))).to.deep.equal(scope);
    for (const wrong of [null, undefined, '', 'page:', 'nonsense', 'template'])
      expect(parseScope(wrong).kind).to.equal('all');
  });

  it('finds the pages of a scope', () => {
    const list = [{ page: 'a', template: 'x' }, { page: 'b', template: 'x' }, { page: 'c' }];
    expect(pagesIn(list, { kind: 'all' })).to.equal(list);
    expect(pagesIn(list, { kind: 'template', template: 'x' }).map((p) => p.page)).to.deep.equal(['a', 'b']);
    expect(pagesIn(list, { kind: 'page', page: 'c' }).map((p) => p.page)).to.deep.equal(['c']);
    expect(pagesIn(list, { kind: 'page', page: 'z' })).to.deep.equal([]);
  });
});
