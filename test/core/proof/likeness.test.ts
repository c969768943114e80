import { expect } from 'chai';
import fc from 'fast-check';
import { findLike } from '../../../src/core/proof/likeness';

const PAGE = 'https://www.fernhollow.example/';
const get = (url: string) => ({ method: 'GET', url: PAGE + url });

describe('core/proof/likeness', () => {
  const recorded = ['count.gif?t=1731400000123&page=home', 'count.gif?t=1731400000900&page=talks', 'app.js'].map(get);
  const like = (url: string, used: readonly number[] = []) => findLike(get(url), recorded, new Set(used));

  it('answers the same address first', () => {
    expect(like('count.gif?t=1731400000900&page=talks')).to.deep.equal({ index: 1, alike: 1 });
  });

  it('takes a query of the same names with another time for the same request, by most equal values', () => {
    expect(like('count.gif?t=1764000000000&page=talks')?.index).to.equal(1);
    expect(like('count.gif?t=1764000000000&page=home')?.index).to.equal(0);
  });

  it('prefers what was not answered yet among those that are equally alike', () => {
    expect(like('count.gif?t=5&page=visit')?.index).to.equal(0);
    expect(like('count.gif?t=5&page=visit', [0])?.index).to.equal(1);
  });

  it('looks through numbers and hashes in the path, not through names', () => {
    const list = [get('s/1731400000123/beacon'), get('img/rose.jpg')];
    expect(findLike(get('s/1764000000999/beacon'), list, new Set())?.index).to.equal(0);
    expect(findLike(get('img/fern.jpg'), list, new Set())).to.equal(undefined);
  });

  it('answers no other method, host, or quite another query', () => {
    expect(findLike({ method: 'POST', url: `${PAGE}app.js` }, recorded, new Set())).to.equal(undefined);
    expect(findLike({ method: 'GET', url: 'https://media.fernhollow.example/app.js' }, recorded, new Set())).to.equal(
      undefined,
    );
    expect(like('app.js?search=roses&sort=name')).to.equal(undefined);
  });

  it('finds every recorded request again, whatever its address', () => {
    fc.assert(
      fc.property(fc.array(fc.webUrl({ withQueryParameters: true }), { minLength: 1, maxLength: 8 }), (urls) => {
        const list = urls.map((url) => ({ method: 'GET', url }));
        for (const asked of list) expect(list[findLike(asked, list, new Set())?.index ?? -1]?.url).to.equal(asked.url);
      }),
    );
  });
});
