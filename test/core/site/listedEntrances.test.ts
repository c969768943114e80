import { expect } from 'chai';
import fc from 'fast-check';
import { isGood, VERDICTS, type Entrance } from '../../../src/core/site/entrances';
import { faultsFirst, listedEntrances } from '../../../src/core/site/listedEntrances';

const entrance = fc.record({
  why: fc.constantFrom('entrance' as const, 'deep' as const, 'slash' as const),
  verdict: fc.constantFrom(...VERDICTS),
});

const probed = fc.array(entrance, { maxLength: 60 }).map((list) =>
  list.map((e, i): Entrance => ({
    ...e,
    from: `http://www.fernhollow.example/${i}`,
    family: 'IPv4',
    hops: [],
    end: null,
    says: '',
    page: { bodyHash: `${i}`, textHash: '', title: '' },
  })),
);

describe('core/site/listedEntrances', () => {
  it('has every entrance, and the first rows of the table as all addresses would give them', () => {
    fc.assert(
      fc.property(
        probed,
        fc.integer({ min: 1, max: 20 }),
        fc.option(fc.constantFrom(...VERDICTS), { nil: undefined }),
        (all, rows, verdict) => {
          const listed = listedEntrances(all, rows, verdict);
          const firstRows = (of: readonly Entrance[]) =>
            faultsFirst(of.filter((e) => !verdict || e.verdict === verdict))
              .slice(0, rows)
              .map((e) => e.from);
          expect(firstRows(listed.entrances)).to.deep.equal(firstRows(all));
          const ways = (of: readonly Entrance[]) => of.filter((e) => e.why === 'entrance').map((e) => e.from);
          expect(ways(listed.entrances)).to.deep.equal(ways(all));
          expect(listed.entrances.length).to.be.at.most(ways(all).length + rows);
        },
      ),
    );
  });

  it('counts all of them, whatever is listed', () => {
    fc.assert(
      fc.property(probed, (all) => {
        const { verdicts, deep } = listedEntrances(all, 1, 'direct');
        expect(verdicts.reduce((n, v) => n + v.addresses, 0)).to.equal(all.length);
        expect(verdicts.filter((v) => isGood(v.verdict)).length).to.be.at.most(2);
        expect(deep.addresses).to.equal(all.filter((e) => e.why !== 'entrance').length);
        expect(deep.faulty).to.be.at.most(deep.addresses);
      }),
    );
  });
});
