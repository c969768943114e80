import { expect } from 'chai';
import fc from 'fast-check';
import { parseLinks, preloads } from '../../../src/core/source/linkHeader';
import { isPreloaded } from '../../../src/core/source/page';
import { auditOf, PAGE, PHONE } from '../../fixtures/har';

/** Targets with their parameters, as plain values. */
const read = (value: string) => parseLinks(value).map((l) => [l.target, Object.fromEntries(l.parameters)]);
const linksOf = (link: string, url = PAGE) =>
  auditOf('<p>Ferns</p>', [], { hero: undefined }, url, { headers: { link } }).page.headerLinks;

describe('core/source: Link headers (RFC 8288)', () => {
  it('reads targets and parameters, quoted and bare', () => {
    expect(read('</a.css>; rel=preload; as=style')).to.deep.equal([['/a.css', { rel: 'preload', as: 'style' }]]);
    expect(read('<http://example.com/TheBook/chapter2>; rel="previous";title="previous chapter"')).to.deep.equal([
      ['http://example.com/TheBook/chapter2', { rel: 'previous', title: 'previous chapter' }],
    ]);
    expect(
      read('</f.woff2>; rel=preload; as=font; crossorigin, <https://data.example>; REL="preconnect"'),
    ).to.deep.equal([
      ['/f.woff2', { rel: 'preload', as: 'font', crossorigin: '' }],
      ['https://data.example', { rel: 'preconnect' }],
    ]);
  });

  it('is not misled by commas and semicolons in addresses and quotes', () => {
    expect(read('</a,b;c.css>; rel=preload; title="one, two; \\"three\\"", </d>; rel=next')).to.deep.equal([
      ['/a,b;c.css', { rel: 'preload', title: 'one, two; "three"' }],
      ['/d', { rel: 'next' }],
    ]);
  });

  it('takes the first of two parameters alike, and leaves out what is no link', () => {
    expect(read('</a>; rel=preload; rel=next')).to.deep.equal([['/a', { rel: 'preload' }]]);
    expect(read('nonsense, </b>; rel=next')).to.deep.equal([['/b', { rel: 'next' }]]);
    expect(read('<unclosed; rel=preload')).to.deep.equal([]);
  });

  it('takes no more time than the text is long, whatever a server sends', () => {
    const long = 400_000;
    const hostile = [
      ';a' + ' '.repeat(long),
      '; a="' + '\\'.repeat(long),
      ';'.repeat(long),
      ' ,'.repeat(long),
      '<'.repeat(long),
    ];
    for (const text of hostile) expect(read('</a>' + text)[0]?.[0]).to.be.oneOf(['/a', undefined]);
    expect(read('</a>,'.repeat(10_000)), 'no more of them than anybody needs').to.have.lengthOf(500);
  });

  it('ends on any text, and finds again what was written', () => {
    fc.assert(fc.property(fc.string({ maxLength: 200 }), (text) => parseLinks(text).length <= text.length));
    const name = fc.stringMatching(/^[a-z]{1,8}$/);
    const value = fc.stringMatching(/^[ -~]{0,20}$/);
    const target = fc.stringMatching(/^[!-;=?-~]{1,20}$/);
    const link = fc.record({ target, parameters: fc.uniqueArray(fc.tuple(name, value), { selector: ([n]) => n }) });
    fc.assert(
      fc.property(fc.array(link, { maxLength: 4 }), (links) => {
        const quoted = (v: string) => `"${v.replace(/["\\]/g, '\\$&')}"`;
        const header = links
          .map((l) => [`<${l.target}>`, ...l.parameters.map(([n, v]) => `${n}=${quoted(v)}`)].join('; '))
          .join(', ');
        expect(read(header)).to.deep.equal(links.map((l) => [l.target, Object.fromEntries(l.parameters)]));
      }),
    );
  });

  it('resolves them against the address of the page, not against a base element', () => {
    const { page } = auditOf('<base href="/other/"><p>Ferns</p>', [], undefined, PAGE + 'beds/', {
      headers: { link: '<hero.jpg>; rel=preload; as=image' },
    });
    expect(page.headerLinks.map((l) => l.url)).to.deep.equal([PAGE + 'beds/hero.jpg']);
    expect(isPreloaded(page, PAGE + 'beds/hero.jpg')).to.equal(true);
    expect(isPreloaded(page, PAGE + 'other/hero.jpg')).to.equal(false);
  });

  it('knows of candidates, and of screens that a link is not for', () => {
    const [link] = linksOf('</a.jpg>; rel=preload; as=image; imagesrcset="/small.jpg 400w, /large.jpg 1200w"');
    expect(link && preloads(link, PAGE + 'large.jpg')).to.equal(true);
    expect(link && preloads(link, PAGE + 'a.jpg'), 'a candidate is taken instead').to.equal(false);
    expect(
      linksOf(`</wide.css>; rel=preload; as=style; media="(min-width: ${PHONE.screenWidth + 1}px)"`),
    ).to.deep.equal([]);
  });
});
