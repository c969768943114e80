import { expect } from 'chai';
import fc from 'fast-check';
import { bestGains } from '../../../src/core/plan/bestGains';
import { firstFixes } from '../../../src/core/plan/firstFixes';
import type { GroupInfo } from '../../../src/core/plan/sweepForecast';

const group = (id: string): GroupInfo => ({
  id,
  title: id,
  kind: 'hero-preload',
  pages: 1,
  effort: 1,
  concern: 'hero',
});

describe('core/plan/bestGains', () => {
  it('names the best fixes of each page, the best one first, and no group twice', () => {
    const found = bestGains(
      ['a', 'b', 'c'].map(group),
      [
        { group: 'a', pages: [[1, 30], [2, 19]] }, // prettier-ignore
        { group: 'b', pages: [[1, 500]] },
        { group: 'c', pages: [[1, 100], [3, 40]] }, // prettier-ignore
        { group: 'of another sweep', pages: [[1, 9000]] },
      ],
      2,
    );
    expect(found.groups.map((g) => g.id)).to.deep.equal(['b', 'c']);
    expect(found.pages).to.deep.equal([
      [1, [[0, 500], [1, 100]]], // prettier-ignore
      [3, [[1, 40]]],
    ]);
  });

  it('agrees with sorting all of them', () => {
    const gains = fc.array(fc.array(fc.tuple(fc.integer({ min: 1, max: 4 }), fc.integer({ min: -50, max: 300 }))), {
      maxLength: 8,
    });
    fc.assert(
      fc.property(gains, fc.integer({ min: 1, max: 4 }), (lists, most) => {
        const rows = lists.map((pages, i) => ({ group: String(i), pages: [...new Map(pages)] }));
        const found = bestGains(
          rows.map((r) => group(r.group)),
          rows,
          most,
        );
        for (const [captureId, own] of found.pages) {
          const all = rows.flatMap((r) => r.pages.flatMap(([at, ms]) => (at === captureId && ms >= 20 ? [ms] : [])));
          expect(own.map(([, ms]) => ms)).to.deep.equal(all.sort((a, b) => b - a).slice(0, most));
          for (const [at, ms] of own) {
            const named = rows.find((r) => r.group === found.groups[at]?.id);
            expect(new Map(named?.pages).get(captureId)).to.equal(ms);
          }
        }
      }),
    );
  });
});

describe('core/plan/firstFixes', () => {
  it('names six groups of each cause, each once', () => {
    const ids = ['a', 'b', 'c', 'd', 'e', 'f', 'g', 'h'];
    const causes = [{ groups: ids.slice(0, 7) }, { groups: ['h', 'a', 'gone'] }];
    expect(firstFixes(causes, ids.map(group)).map((g) => g.id)).to.deep.equal(['a', 'b', 'c', 'd', 'e', 'f', 'h']);
  });
});
