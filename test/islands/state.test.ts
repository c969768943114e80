import { expect } from 'chai';
import fc from 'fast-check';
import { nextVisitor } from '../../src/islands/state/visitors';
import { groupKey } from '../../src/core/plan/groupKey';
import { RequestError, shownError } from '../../src/islands/state/api';
import { sortRows } from '../../src/islands/ui/SortHead';
import { VISITORS } from '../../src/core/load/visitors';

describe('islands/state', () => {
  it('goes round the visitors', () => {
    const seen = [VISITORS[0]?.id ?? ''];
    for (let i = 1; i < VISITORS.length; i++) seen.push(nextVisitor(VISITORS, seen.at(-1) ?? ''));
    expect(seen).to.deep.equal(VISITORS.map((v) => v.id));
    expect(nextVisitor(VISITORS, seen.at(-1) ?? '')).to.equal(VISITORS[0]?.id);
    expect(nextVisitor(VISITORS, 'own')).to.equal(VISITORS[0]?.id);
  });

  it('keeps keys of groups short and apart, fit for an address', () => {
    const kinds = ['hero-eager', 'image-resize', 'text-compress', 'script-defer'];
    const keys = kinds.flatMap((k) =>
      Array.from({ length: 300 }, (_, i) => groupKey(`${k}|https://a.example/${i}.js`)),
    );
    expect(new Set(keys).size).to.equal(keys.length);
    for (const k of keys) expect(k).to.match(/^[a-z0-9]{5,7}$/);
  });

  it('turns any error into one to show', () => {
    const shown = { what: 'a', where: 'b', next: 'c' };
    expect(shownError(new RequestError(shown))).to.equal(shown);
    expect(shownError(new Error('broken')).what).to.equal('broken');
    expect(shownError('text').what).to.equal('text');
  });

  it('sorts numbers by size and texts by the alphabet, both ways, without touching what it was given', () => {
    fc.assert(
      fc.property(fc.array(fc.record({ n: fc.integer(), t: fc.string() })), fc.boolean(), (rows, down) => {
        const before = [...rows];
        const byNumber = sortRows(rows, { by: 'n', down }, (r) => r.n).map((r) => r.n);
        expect(byNumber).to.deep.equal(rows.map((r) => r.n).sort((a, b) => (down ? b - a : a - b)));
        const byText = sortRows(rows, { by: 't', down: false }, (r) => r.t);
        for (let i = 1; i < byText.length; i++)
          expect((byText[i - 1]?.t ?? '').localeCompare(byText[i]?.t ?? '')).to.be.at.most(0);
        expect(rows).to.deep.equal(before);
      }),
    );
  });
});
