import { expect } from 'chai';
import fc from 'fast-check';
import { readPageFacts, readRefresh } from '../../../src/core/site/pageFacts';

const url = 'https://www.fernhollow.example/visit/';
const facts = (html: string) => readPageFacts(html, url);

const PAGE = `<!doctype html>
<html lang="en">
<head>
  <title> Visit
    us </title>
  <base href="/sub/">
  <link rel="canonical" href="https://www.fernhollow.example/visit/">
  <link rel="alternate" hreflang="de" href="/de/visit/">
  <meta name="robots" content="noindex, nofollow">
  <meta http-equiv="refresh" content="5; url='next/'">
  <style>
    .a { background: url(http://media.fernhollow.example/p/a.jpg) }
  </style>
</head>
<body>
  <a href="one/" rel="nofollow">One</a> <a href="http://www.fernhollow.example/two/"><img src="x.jpg" alt="Two"></a>
  <p style="background:url('http://media.fernhollow.example/p/b.jpg')">http://www.fernhollow.example/not-a-mention/</p>
  <!-- <a href="http://www.fernhollow.example/comment/">no</a> -->
  <template><a href="http://www.fernhollow.example/inert/">no</a></template>
</body>
</html>`;

describe('core/site/pageFacts', () => {
  const page = facts(PAGE);

  it('reads what the head says', () => {
    expect(page.title).to.equal('Visit us');
    expect(page.language).to.equal('en');
    expect(page.base).to.equal('/sub/');
    expect(page.baseUrl).to.equal('https://www.fernhollow.example/sub/');
    expect(page.canonical).to.equal(url);
    expect(page.robots).to.deep.equal(['noindex', 'nofollow']);
    expect(page.hreflang).to.deep.equal([{ language: 'de', url: 'https://www.fernhollow.example/de/visit/' }]);
    expect(page.refresh).to.deep.equal({ seconds: 5, url: 'https://www.fernhollow.example/sub/next/' });
  });

  it('lists links with element, place, rel and what a person reads', () => {
    expect(page.links.map((l) => [l.raw, l.line, l.column, l.rel, l.text])).to.deep.equal([
      ['one/', 16, 6, 'nofollow', 'One'],
      ['http://www.fernhollow.example/two/', 16, 44, '', 'Two'],
    ]);
  });

  it('lists http mentions with line and column, and neither text, comments nor inert content', () => {
    expect(page.mentions.map((m) => [m.url, m.tag, m.attribute, m.use, m.line])).to.deep.equal([
      ['http://media.fernhollow.example/p/a.jpg', 'style', 'background', 'load', 12],
      ['http://www.fernhollow.example/two/', 'a', 'href', 'link', 16],
      ['http://media.fernhollow.example/p/b.jpg', 'p', 'style', 'load', 17],
    ]);
    const lines = PAGE.split('\n');
    for (const m of page.mentions) expect(lines[m.line - 1]).to.contain(m.source.slice(0, 30));
  });

  it('shows of a minified line what stands around the place', () => {
    const long = `<p>${'x'.repeat(5000)}</p><a href="http://www.fernhollow.example/far/">Far</a>${'<b>y</b>'.repeat(900)}`;
    const [mention] = facts(long).mentions;
    expect(mention?.source).to.match(/^….*far.*…$/);
    expect(mention?.source.length).to.be.below(210);
  });

  it('changes its text hash with the text only', () => {
    const hash = (html: string) => facts(html).textHash;
    expect(hash('<p>A  fern</p>')).to.equal(hash('<div class="x"><b>A</b>\n fern<script>1</script></div>'));
    expect(hash('<p>A fern</p>')).to.not.equal(hash('<p>A moss</p>'));
  });

  it('has the same features for pages of one template, others for another', () => {
    const plant = (n: number) =>
      `<main class="plant"><h1>Plant ${n}</h1><div class="facts">${'<p>x</p>'.repeat(n)}</div></main>`;
    expect(facts(plant(1)).features).to.deep.equal(facts(plant(9)).features);
    expect(facts(plant(1)).features).to.not.deep.equal(
      facts('<main class="note"><article>x</article></main>').features,
    );
  });

  it('survives hostile markup', () => {
    expect(facts('<div>'.repeat(60_000)).elements).to.be.above(500);
    fc.assert(fc.property(fc.string(), (text) => void facts(text)));
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('<a href=', '"http:', '>', '<style>', 'url(', "'", '<base href=//', '<!--')),
        (parts) => {
          facts(parts.join(''));
        },
      ),
    );
  });
});

describe('core/site/readRefresh', () => {
  it('reads what browsers read (HTML Standard, 4.2.5.3)', () => {
    const target = (content: string) => readRefresh(content, url)?.url;
    expect(target('0;url=/a')).to.equal('https://www.fernhollow.example/a');
    expect(target("3 , URL = '/b c'")).to.equal('https://www.fernhollow.example/b%20c');
    expect(target('1; /c')).to.equal('https://www.fernhollow.example/c');
    expect(target('30')).to.equal(undefined);
    expect(target('soon; url=/a')).to.equal(undefined);
  });
});
