import { expect } from 'chai';
import type { ListedCause } from '../../src/engine/services/listedCauses';
import { rateCauses } from '../../src/engine/services/ratedCauses';

const cause = (name: string, values: Partial<ListedCause>): ListedCause =>
  ({ cause: name, harm: 'slow', pages: 1, reach: 1, groups: [], places: [], ...values }) as ListedCause;
const at = (captureId: number) => ({ captureId, id: `f${captureId}`, page: `/${captureId}`, linksIn: 0 });

describe('engine/services: rated causes', () => {
  const causes = [
    cause('little', { groups: ['a'], places: [at(1)], reach: 10, pages: 9 }),
    cause('much', { groups: ['a', 'b'], places: [at(1), at(2), at(2)], reach: 10, pages: 2 }),
    cause('broken', { harm: 'broken', groups: ['b'], places: [at(2)] }),
  ];
  const gains = [
    { group: 'a', pages: [[1, 100] as const, [2, 300] as const] },
    { group: 'b', pages: [[2, 900] as const] },
  ];

  it('are worth what their best fix saves on the pages at hand, and the broken come first', () => {
    const rated = rateCauses(causes, gains, 'impact');
    expect(rated.map((c) => c.cause)).to.deep.equal(['broken', 'much', 'little']);
    // Each page counts once, however many places it has.
    expect(rated.map((c) => c.worth.savedMs)).to.deep.equal([undefined, 900, 100]);
    expect(rateCauses(causes, gains, 'pages').map((c) => c.cause)).to.deep.equal(['little', 'much', 'broken']);
  });

  it('have no saving before anything has been forecast', () => {
    expect(rateCauses(causes, undefined, 'impact').map((c) => c.worth.savedMs)).to.deep.equal([
      undefined,
      undefined,
      undefined,
    ]);
  });
});
