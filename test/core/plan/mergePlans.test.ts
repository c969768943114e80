import { expect } from 'chai';
import fc from 'fast-check';
import { mergePlans, onlyStatesDiffer, type PlanParts } from '../../../src/core/plan/mergePlans';
import type { FixState, PlanFix } from '../../../src/core/plan/plan';

const fix = (group: string, more: Partial<PlanFix> = {}): PlanFix => ({
  group,
  title: `Fix ${group}`,
  owner: '',
  due: '',
  state: 'open',
  ...more,
});
const plan = (...fixes: PlanFix[]): PlanParts => ({ name: 'Spring', visitor: 'phone', scope: '', fixes });

describe('core/plan/mergePlans', () => {
  const base = plan(fix('a'), fix('b'), fix('c'));

  it('takes from each what only that one changed', () => {
    const mine = plan(fix('a', { state: 'done' }), fix('b'), fix('c'));
    const theirs = { ...plan(fix('a', { owner: 'Ada' }), fix('b', { due: '2026-12-01' }), fix('c')), name: 'Summer' };
    const merged = mergePlans(base, mine, theirs);
    expect(merged.conflicts).to.deep.equal([]);
    expect(merged.content).to.deep.equal({
      ...plan(fix('a', { state: 'done', owner: 'Ada' }), fix('b', { due: '2026-12-01' }), fix('c')),
      name: 'Summer',
    });
  });

  it('keeps the later of two, and names the earlier', () => {
    const merged = mergePlans(
      base,
      plan(fix('a', { owner: 'Ada' })),
      plan(fix('a', { owner: 'Ben' }), fix('b'), fix('c')),
    );
    expect(merged.content.fixes).to.deep.equal([fix('a', { owner: 'Ada' })]);
    expect(merged.conflicts).to.deep.equal([{ fix: 'Fix a', field: 'owner', kept: 'Ada', lost: 'Ben' }]);
  });

  it('keeps a fix that one takes out and the other changes, and what either puts in', () => {
    const mine = plan(fix('a'), fix('c'), fix('d'));
    const theirs = plan(fix('a'), fix('b', { state: 'started' }), fix('c'), fix('e'));
    const merged = mergePlans(base, mine, theirs);
    expect(merged.content.fixes.map((f) => f.group)).to.have.members(['a', 'b', 'c', 'd', 'e']);
    expect(merged.conflicts.map((c) => c.field)).to.deep.equal(['in the plan']);
  });

  const states: FixState[] = ['open', 'started', 'done', 'dropped'];
  const fixes = fc
    .uniqueArray(fc.constantFrom('a', 'b', 'c', 'd', 'e'))
    .chain((groups) =>
      fc.tuple(
        ...groups.map((g) =>
          fc
            .record({ owner: fc.constantFrom('', 'Ada', 'Ben'), state: fc.constantFrom(...states) })
            .map((m) => fix(g, m)),
        ),
      ),
    );
  const plans = fixes.map((list) => plan(...(list as PlanFix[])));

  it('changes nothing of the others where nothing was changed, whichever side that is', () => {
    fc.assert(
      fc.property(plans, plans, (one, other) => {
        expect(mergePlans(one, one, other)).to.deep.equal({ content: other, conflicts: [] });
        expect(mergePlans(one, other, one)).to.deep.equal({ content: other, conflicts: [] });
      }),
    );
  });

  it('loses no change without a word', () => {
    fc.assert(
      fc.property(plans, plans, plans, (was, mine, theirs) => {
        const { content, conflicts } = mergePlans(was, mine, theirs);
        for (const change of theirs.fixes) {
          const before = was.fixes.find((f) => f.group === change.group);
          const after = content.fixes.find((f) => f.group === change.group);
          for (const field of ['owner', 'state'] as const)
            if (before && change[field] !== before[field])
              expect(
                after?.[field] === change[field] || conflicts.some((c) => c.fix === change.title),
                `${change.group} ${field}`,
              ).to.equal(true);
        }
      }),
    );
  });

  it('tells ticking off from other changes', () => {
    expect(onlyStatesDiffer(base, plan(fix('a', { state: 'done' }), fix('b'), fix('c')))).to.equal(true);
    expect(onlyStatesDiffer(base, plan(fix('a', { owner: 'Ada' }), fix('b'), fix('c')))).to.equal(false);
    expect(onlyStatesDiffer(base, plan(fix('b'), fix('a'), fix('c')))).to.equal(false);
    expect(onlyStatesDiffer(base, { ...base, name: 'x' })).to.equal(false);
  });
});
