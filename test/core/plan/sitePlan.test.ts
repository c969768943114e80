import { expect } from 'chai';
import { VISITORS } from '../../../src/core/load/visitors';
import { PERTURBATIONS } from '../../../src/core/load/range';
import { samplesOf } from '../../../src/core/plan/samples';
import { sitePlan } from '../../../src/core/plan/sitePlan';
import { averageWith, milestonesWith } from '../../../src/core/plan/averages';
import { averageRange, groupFixes } from '../../../src/core/plan/staircase';
import { faultyPage } from '../../fixtures/faultyPage';
import { faultySite } from '../../fixtures/faultySite';

const phone = VISITORS[0] as (typeof VISITORS)[number];
const site = faultySite();
const page = faultyPage();
const one = { graph: site.graph, fixes: site.fixes };
const other = {
  graph: { ...page.graph, page: `${page.graph.page}other/` },
  fixes: page.fixes.map((f) => ({ ...f, page: `${f.page}other/`, id: `${f.id} other` })),
};

describe('core/plan/sitePlan', () => {
  const effortOf = (minutes: number) => sitePlan([one, other], phone, minutes);

  it('stays within its effort, and leads nowhere without any', () => {
    for (const minutes of [0, 15, 60, 240]) {
      const plan = effortOf(minutes);
      expect(plan.effort).to.be.at.most(minutes);
      expect(plan.groups.reduce((sum, g) => sum + g.effort, 0)).to.equal(plan.effort);
      expect(plan.afterMs).to.be.at.most(plan.nowMs);
    }
    expect(effortOf(0)).to.include({ effort: 0 });
    expect(effortOf(0).groups).to.deep.equal([]);
  });

  it('wins at least as much with more effort', () => {
    const after = [0, 15, 30, 60, 120, 480].map((m) => effortOf(m).afterMs);
    expect(after).to.deep.equal([...after].sort((a, b) => b - a));
    expect(after.at(-1)).to.be.below(after[0] ?? 0);
  });

  it('adds up: what it says is what its groups lead to', () => {
    const plan = effortOf(120);
    const fixes = plan.groups.flatMap((g) => g.fixes);
    expect(averageWith([one, other], fixes, phone).lcpMs).to.be.closeTo(plan.afterMs, 1e-6);
    expect(averageWith([one, other], [], phone).lcpMs).to.be.closeTo(plan.nowMs, 1e-6);
  });

  it('cares for the page that weighs more', () => {
    const weighted = (a: number, b: number) =>
      sitePlan(
        [
          { ...one, weight: a },
          { ...other, weight: b },
        ],
        phone,
        30,
      );
    const won = (graph: typeof one.graph, plan: ReturnType<typeof weighted>) =>
      milestonesWith(graph, [], phone).lcpMs -
      milestonesWith(
        graph,
        plan.groups.flatMap((g) => g.fixes),
        phone,
      ).lcpMs;
    expect(won(one.graph, weighted(1000, 1))).to.be.at.least(won(one.graph, weighted(1, 1000)));
    expect(won(other.graph, weighted(1, 1000))).to.be.at.least(won(other.graph, weighted(1000, 1)));
  });
});

describe('core/plan/staircase: averages and draws', () => {
  it('weighs pages, and counts each alike where no weight is said', () => {
    const mean = (a?: number, b?: number) =>
      averageWith(
        [
          { ...one, weight: a },
          { ...other, weight: b },
        ],
        [],
        phone,
      ).lcpMs;
    const [first, second] = [one, other].map((p) => milestonesWith(p.graph, [], phone).lcpMs) as [number, number];
    expect(mean()).to.be.closeTo((first + second) / 2, 1e-6);
    expect(mean(3, 1)).to.be.closeTo((3 * first + second) / 4, 1e-6);
    expect(averageWith([], [], phone).lcpMs).to.equal(0);
  });

  it('takes one change over several pages as one group, whose effort is counted once', () => {
    const [group] = groupFixes([one]).filter((g) => g.kind === 'script-async');
    const twin = { ...one, graph: { ...one.graph, page: 'https://twin.example/' } };
    const both = groupFixes([one, { ...twin, fixes: one.fixes.map((f) => ({ ...f, page: twin.graph.page })) }]);
    const same = both.find((g) => g.id === group?.id);
    expect(same?.pages).to.equal(2);
    expect(same?.effort).to.equal(group?.effort);
  });

  it('draws each graph once for a link, and more only when more are asked for', () => {
    const few = samplesOf(one.graph, phone, 5);
    const all = samplesOf(one.graph, phone);
    expect(few).to.have.length(5);
    expect(all).to.have.length(PERTURBATIONS.length);
    few.forEach((m, i) => expect(all[i]).to.equal(m));
    const otherLink = samplesOf(one.graph, { ...phone, rttMs: phone.rttMs * 3 }, 1);
    expect(otherLink[0]?.lcpMs).to.be.above(all[0]?.lcpMs ?? Infinity);
  });

  it('gives a range around the estimate, none where nothing is fixed, a narrower one over more pages', () => {
    const fixes = one.fixes.filter((f) => f.kind === 'server-faster');
    const after = averageWith([one], fixes, phone).lcpMs;
    const [low, high] = averageRange([one], fixes, phone, after);
    expect(low).to.be.below(after);
    expect(high).to.be.above(after);
    expect(averageRange([one], [], phone, 1234)).to.deep.equal([1234, 1234]);
    const both = averageWith([one, other], fixes, phone).lcpMs;
    const [from, to] = averageRange([one, other], fixes, phone, both);
    expect(to - from).to.be.below(high - low);
  });
});
