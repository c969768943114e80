import { expect } from 'chai';
import fc from 'fast-check';
import { VISITORS } from '../../../src/core/load/visitors';
import { averageWith } from '../../../src/core/plan/averages';
import { averagesOf } from '../../../src/core/plan/groupAverages';
import { groupFixes } from '../../../src/core/plan/staircase';
import { faultyPage } from '../../fixtures/faultyPage';
import { faultySite } from '../../fixtures/faultySite';

const phone = VISITORS[0] as (typeof VISITORS)[number];
const [site, page] = [faultySite(), faultyPage()];
const pages = [
  { graph: site.graph, fixes: site.fixes, weight: 3 },
  {
    graph: { ...page.graph, page: `${page.graph.page}other/` },
    fixes: page.fixes.map((f) => ({ ...f, page: `${f.page}other/`, id: `${f.id} other` })),
  },
  // A page that two recordings show, and that no fix concerns.
  { graph: { ...page.graph, page: `${page.graph.page}third/` }, fixes: [] },
  { graph: { ...page.graph, page: `${page.graph.page}third/` }, fixes: [], weight: 2 },
];
const groups = groupFixes(pages);

describe('core/plan: averages by groups', () => {
  it('are those of all fixes together, whatever was asked before', () => {
    const id = fc.constantFrom(...groups.map((g) => g.id));
    const sets = fc.array(fc.uniqueArray(id, { maxLength: 6 }), { minLength: 1, maxLength: 8 });
    fc.assert(
      fc.property(sets, (asked) => {
        const after = averagesOf(pages, groups, phone);
        for (const ids of asked) {
          const fixes = ids.flatMap((i) => groups.find((g) => g.id === i)?.fixes ?? []);
          const [made, plain] = [after(ids), averageWith(pages, fixes, phone)];
          for (const figure of ['lcpMs', 'fcpMs', 'loadMs', 'bytes'] as const)
            expect(made[figure], `${figure} of ${ids.join()}`).to.be.closeTo(plain[figure], 1e-6 * (1 + plain[figure]));
        }
      }),
      { numRuns: 60 },
    );
  });

  it('knows no group that is not there', () => {
    const after = averagesOf(pages, groups, phone);
    expect(after(['nothing'])).to.deep.equal(after([]));
  });
});
