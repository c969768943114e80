import { expect } from 'chai';
import { NearestPages } from '../../../src/core/site/nearest';

const at = (path: string, title?: string) => ({ url: 'https://www.fernhollow.example' + path, title });

describe('nearest living pages', () => {
  const pages = new NearestPages([
    at('/', 'Fernhollow'),
    at('/plants/tree-fern/', 'Tree ferns'),
    at('/plants/moss/', 'Mosses'),
    at('/visit/tickets/', 'Tickets and prices'),
    at('/visit/', 'Visit us'),
  ]);
  it('goes by the words of the path', () => {
    expect(pages.of('http://fernhollow.example/old/tree-fern.html')?.url).to.equal(at('/plants/tree-fern/').url);
    expect(pages.of('http://fernhollow.example/tickets.php')?.url).to.equal(at('/visit/tickets/').url);
  });
  it('goes by the title where the path says nothing', () => {
    expect(pages.of('http://fernhollow.example/p?id=7', 'Mosses')?.url).to.equal(at('/plants/moss/').url);
  });
  it('proposes nothing where nothing is alike, the home page least of all', () => {
    expect(pages.of('http://fernhollow.example/gift-shop/umbrella/')).to.equal(undefined);
  });
});
