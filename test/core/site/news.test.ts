import { expect } from 'chai';
import fc from 'fast-check';
import { newsBetween, type SweepCause } from '../../../src/core/site/news';

const cause = (id: string, pages: readonly string[], harm: SweepCause['harm'] = 'slow'): SweepCause => ({
  cause: id,
  check: 'hero-lazy',
  concern: 'hero',
  harm,
  title: id,
  pages,
});
const set = (...values: string[]) => new Set(values);

describe('core/site/news', () => {
  it('tells what is new, gone, came back and stayed', () => {
    const news = newsBetween(
      [cause('stays', ['/a']), cause('new', ['/a']), cause('again', ['/b'])],
      [cause('stays', ['/a']), cause('fixed', ['/b'])],
      set('again'),
      set('/a', '/b'),
      set('/a', '/b'),
    );
    expect(news.appeared.map((c) => c.cause)).to.deep.equal(['new']);
    expect(news.cameBack.map((c) => c.cause)).to.deep.equal(['again']);
    expect(news.gone.map((c) => c.cause)).to.deep.equal(['fixed']);
    expect(news.stayed).to.equal(1);
    expect(news.notLookedAt).to.deep.equal([]);
  });

  it('calls nothing gone that nobody looked at again, and nothing new on pages that were not looked at before', () => {
    const news = newsBetween(
      [cause('other page', ['/new'])],
      [cause('left out', ['/old'])],
      set(),
      set('/new'),
      set('/old'),
    );
    expect(news.gone).to.deep.equal([]);
    expect(news.notLookedAt.map((c) => c.cause)).to.deep.equal(['left out']);
    expect(news.appeared).to.deep.equal([]);
  });

  it('puts the worst harm and the most pages first', () => {
    const news = newsBetween(
      [cause('a', ['/1']), cause('b', ['/1', '/2']), cause('c', ['/1'], 'broken')],
      [],
      set(),
      set('/1', '/2'),
      set('/1', '/2'),
    );
    expect(news.appeared.map((c) => c.cause)).to.deep.equal(['c', 'b', 'a']);
  });

  it('counts every cause of either sweep once, whatever they hold', () => {
    const ids = fc.uniqueArray(fc.constantFrom(...'abcdefgh'), { maxLength: 8 });
    fc.assert(
      fc.property(ids, ids, ids, (now, before, earlier) => {
        const all = set('/p');
        const news = newsBetween(
          now.map((id) => cause(id, ['/p'])),
          before.map((id) => cause(id, ['/p'])),
          new Set(earlier),
          all,
          all,
        );
        expect(news.appeared.length + news.cameBack.length + news.stayed).to.equal(now.length);
        expect(news.gone.length + news.notLookedAt.length + news.stayed).to.equal(before.length);
      }),
    );
  });
});
