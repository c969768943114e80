import { expect } from 'chai';
import fc from 'fast-check';
import { historyPoints } from '../../../src/core/watch/history';
import type { PageFigures } from '../../../src/core/watch/figures';

const QUESTION = { figure: 'lcpMs', scope: { kind: 'all' } } as const;

function page(name: string, lcpMs: number): PageFigures {
  const zero = { value: 0 };
  return {
    captureId: 1,
    page: `https://www.fernhollow.example/${name}`,
    lcpMs: { value: lcpMs },
    fcpMs: zero,
    loadMs: zero,
    cls: zero,
    bytes: zero,
    requests: zero,
    findings: [],
  };
}
const sweep = (id: number, ...pages: PageFigures[]) => ({ id, day: `2026-0${id}-01`, pages });

describe('core/watch: history', () => {
  it('is of the pages that all sweeps have in common, where they recorded different ones', () => {
    const found = historyPoints(QUESTION, [
      sweep(1, page('a', 1000), page('b', 3000)),
      sweep(2, page('a', 1100), page('b', 3100), page('slow', 20_000)),
    ]);
    expect(found.points.map((p) => [p.value, p.pages])).to.deep.equal([
      [2000, 2],
      [2100, 2],
    ]);
    expect(found.common).to.equal(2);
  });

  it('is of all pages where they are the same, and of its own for each sweep where too few are', () => {
    const same = historyPoints(QUESTION, [sweep(1, page('a', 1000)), sweep(2, page('a', 1200))]);
    expect(same).to.not.have.property('common');
    const apart = historyPoints(QUESTION, [sweep(1, page('a', 1000)), sweep(2, page('b', 1200))]);
    expect(apart.common).to.equal(0);
    expect(apart.points.map((p) => p.value)).to.deep.equal([1000, 1200]);
  });

  it('leaves out sweeps that recorded none of the pages', () => {
    const scope = { kind: 'page', page: 'https://www.fernhollow.example/b' } as const;
    const found = historyPoints({ ...QUESTION, scope }, [sweep(1, page('a', 1)), sweep(2, page('b', 900)), sweep(3)]);
    expect(found.points.map((p) => [p.sweepId, p.value])).to.deep.equal([[2, 900]]);
  });

  it('does not move when a sweep records one page more', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 100, max: 9000 }), { minLength: 2, maxLength: 5 }),
        fc.nat(90_000),
        (ms, more) => {
          const sweeps = ms.map((v, i) => sweep(i + 1, page('a', v), page('b', 2 * v)));
          const before = historyPoints(QUESTION, sweeps).points.map((p) => p.value);
          const last = sweeps.at(-1) as (typeof sweeps)[number];
          const wider = [...sweeps.slice(0, -1), { ...last, pages: [...last.pages, page('new', more)] }];
          expect(historyPoints(QUESTION, wider).points.map((p) => p.value)).to.deep.equal(before);
        },
      ),
    );
  });
});
