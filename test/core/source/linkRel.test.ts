import { expect } from 'chai';
import { isLinkOf, linksStylesheet, tokensOf } from '../../../src/core/source/linkRel';
import { parseDocument } from '../../../src/core/source/document';

function linkIn(markup: string) {
  const link = parseDocument(markup, 'https://www.fernhollow.example/').elements.find((e) => e.tag === 'link');
  if (!link) throw new Error('no link');
  return link;
}

describe('core/source/linkRel', () => {
  it('reads a set of tokens whatever their case and spaces (HTML, 2.3.7)', () => {
    expect([...tokensOf(' Preload\n\tStyleSheet  preload ')]).to.deep.equal(['preload', 'stylesheet']);
    expect([...tokensOf(undefined)]).to.deep.equal([]);
  });

  it('does not take a part of a word for a link type', () => {
    expect(isLinkOf(linkIn('<link rel="x-stylesheet" href="a.css">'), 'stylesheet')).to.equal(false);
    expect(isLinkOf(linkIn('<link rel="pre-load preload" href="a.css">'), 'preload')).to.equal(true);
  });

  const applies: [string, boolean][] = [
    ['<link rel=stylesheet href=a.css>', true],
    ['<link rel="icon STYLESHEET" href=a.css>', true],
    ['<link rel="alternate stylesheet" title=Night href=a.css>', false],
    ['<link rel=stylesheet disabled href=a.css>', false],
    ['<link rel=stylesheet/x href=a.css>', false],
    ['<link rel=preload as=style href=a.css>', false],
  ];
  for (const [markup, expected] of applies)
    it(`${expected ? 'counts' : 'does not count'} ${markup}`, () =>
      void expect(linksStylesheet(linkIn(markup))).to.equal(expected));
});
