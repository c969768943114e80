import { expect } from 'chai';
import fc from 'fast-check';
import robotsParser from 'robots-parser';
import { readRobots, robotsDirectives, robotsWithout } from '../../../src/core/site/robots';
import { readSitemap } from '../../../src/core/site/sitemap';
import { readUrlList, urlsOf } from '../../../src/core/site/urlList';

const home = 'https://www.fernhollow.example';

describe('core/site/robots', () => {
  it('lets the longest rule win (RFC 9309, 2.2.2)', () => {
    const robots = readRobots(
      `${home}/robots.txt`,
      'User-agent: *\nDisallow: /plants/\nAllow: /plants/open/\nDisallow: /*.pdf$\nSitemap: /map.xml\nCrawl-delay: 2\n',
    );
    const allows = (path: string) => robots.allows(home + path);
    expect(['/', '/plants/a', '/plants/open/a', '/x.pdf', '/x.pdf?y'].map(allows)).to.deep.equal([
      true,
      false,
      true,
      false,
      true,
    ]);
    expect(robots.sitemaps).to.deep.equal([`${home}/map.xml`]);
    expect(robots.delayS).to.equal(2);
  });

  it('heeds the group for our own name before that for all', () => {
    const robots = readRobots(`${home}/robots.txt`, 'User-agent: KeenLens\nAllow: /\n\nUser-agent: *\nDisallow: /\n');
    expect(robots.allows(`${home}/x`)).to.equal(true);
  });

  it('allows everything without a file and nothing when the server is at fault (2.3.1)', () => {
    expect(robotsWithout(404).allows(`${home}/`)).to.equal(true);
    expect(robotsWithout(503).allows(`${home}/`)).to.equal(false);
    expect(robotsWithout(undefined).allows(`${home}/`)).to.equal(false);
  });

  it('reads directives for us or for all', () => {
    expect(robotsDirectives('NoIndex, follow')).to.deep.equal(['noindex', 'follow']);
    expect(robotsDirectives('none')).to.deep.equal(['noindex', 'nofollow']);
    expect(robotsDirectives('otherbot: noindex')).to.deep.equal([]);
    expect(robotsDirectives('keenlens: noindex')).to.deep.equal(['noindex']);
    expect(robotsDirectives('max-snippet: 20, noindex')).to.contain('noindex');
  });

  const ordinary: [string, string, boolean][] = [
    ['Disallow:', '/x', true],
    ['Disallow: /a%2Fb', '/a%2fb', false],
    ['Disallow: /caf\u00e9', '/caf%C3%A9/', false],
    ['Disallow: /%7Efern', '/~fern', false],
    ['Disallow: *', '/x', false],
    ['Disallow: /*?', '/x?y', false],
    ['Disallow: /*?', '/x', true],
    ['Disallow: /a$', '/a', false],
    ['Disallow: /a$', '/ab', true],
    ['Disallow: /a*b*c$', '/a-b-b-c', false],
    ['Disallow: /a*bc$', '/abc', false],
    ['Disallow: /ab*bc$', '/abc', true],
    ['Disallow: /\nAllow: /robots.txt', '/robots.txt', true],
    ['Disallow: /', '/robots.txt', true],
    ['Disallow: /p\nAllow: /p', '/p', true],
  ];
  for (const [rules, path, allowed] of ordinary)
    it(`${allowed ? 'lets' : 'does not let'} ${path} pass by ${JSON.stringify(rules)}`, () =>
      void expect(readRobots(`${home}/robots.txt`, `User-agent: *\n${rules}`).allows(home + path)).to.equal(allowed));

  it('takes several groups for one robot together, and several names for one group', () => {
    const robots = readRobots(
      `${home}/robots.txt`,
      'User-agent: a\nUser-agent: keenlens/2\nDisallow: /a\n\nUser-agent: *\nDisallow: /\n\nUser-agent: KeenLens\nDisallow: /b',
    );
    expect(['/a', '/b', '/c'].map((p) => robots.allows(home + p))).to.deep.equal([false, false, true]);
  });

  it('decides as another reader does', () => {
    const piece = fc.constantFrom('a', 'b', '/', '*', 'ab', '.pdf', '?', '-');
    const pattern = fc
      .tuple(fc.array(piece, { maxLength: 6 }), fc.boolean())
      .map(([parts, end]) => `/${parts.join('')}${end ? '$' : ''}`);
    const rule = fc.tuple(fc.constantFrom('Allow', 'Disallow'), pattern).map(([name, p]) => `${name}: ${p}`);
    const path = fc.array(fc.constantFrom('a', 'b', '/', 'ab', '.pdf', '?', '-'), { maxLength: 8 });
    fc.assert(
      fc.property(fc.array(rule, { minLength: 1, maxLength: 1 }), path, (rules, parts) => {
        const text = `User-agent: *\n${rules.join('\n')}\n`;
        const url = `${home}/${parts.join('')}`;
        const other = robotsParser(`${home}/robots.txt`, text).isAllowed(url, 'KeenLens') ?? true;
        expect(readRobots(`${home}/robots.txt`, text).allows(url), `${text} ${url}`).to.equal(other);
      }),
      { numRuns: 1000 },
    );
  });

  it('survives any text', () => {
    fc.assert(fc.property(fc.string(), (text) => void readRobots(`${home}/robots.txt`, text).allows(`${home}/a`)));
  });
});

describe('core/site/sitemap', () => {
  const set = (body: string) =>
    `<?xml version="1.0"?><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">${body}</urlset>`;

  it('reads pages, entities, CDATA and relative addresses', () => {
    const map = readSitemap(
      set(
        '<url><loc> /a?x=1&amp;y=2 </loc><lastmod>2026-11-01</lastmod></url><url><loc><![CDATA[https://b.example/]]></loc></url>',
      ),
      `${home}/sitemap.xml`,
    );
    expect(map).to.deep.equal({
      pages: [
        { url: `${home}/a?x=1&y=2`, lastModified: '2026-11-01' },
        { url: 'https://b.example/', lastModified: undefined },
      ],
      sitemaps: [],
      fault: undefined,
    });
  });

  it('reads an index, a feed and a plain list', () => {
    expect(
      readSitemap('<sitemapindex><sitemap><loc>/one.xml.gz</loc></sitemap></sitemapindex>', home).sitemaps,
    ).to.deep.equal([`${home}/one.xml.gz`]);
    expect(readSitemap('<feed><entry><link href="/n"/></entry></feed>', home).pages[0]?.url).to.equal(`${home}/n`);
    expect(readSitemap('<rss><channel><item><link>/r</link></item></channel></rss>', home).pages[0]?.url).to.equal(
      `${home}/r`,
    );
    expect(readSitemap(`${home}/a\nnonsense\n${home}/b\n`, home).pages).to.have.length(2);
  });

  it('keeps what came before a fault, and says the fault', () => {
    const broken = readSitemap(set('<url><loc>/a</loc></url><url><loc>/b</lo') + 'x', home);
    expect(broken.pages.map((p) => p.url)).to.deep.equal([`${home}/a`]);
    expect(broken.fault).to.match(/not well-formed/);
    expect(readSitemap('<html><body>Not here</body></html>', home).fault).to.match(/no address/);
    expect(readSitemap('nothing', home).fault).to.match(/neither XML nor a list/);
  });

  it('expands no entities of the file itself', () => {
    const bomb =
      '<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]>' + set('<url><loc>/&b;</loc></url>');
    expect(readSitemap(bomb, home).pages).to.deep.equal([]);
  });

  it('survives any text', () => {
    fc.assert(fc.property(fc.string(), (text) => void readSitemap('<' + text, home)));
  });
});

describe('core/site/urlList', () => {
  it('reads plain lines, with a heading or without', () => {
    expect(urlsOf(readUrlList('https://a.example/\n\n/b\nc.example/x\nhello there\n'), 0, home + '/')).to.deep.equal({
      urls: ['https://a.example/', `${home}/b`, 'https://c.example/x'],
      notAddresses: 1,
    });
    expect(readUrlList('Address\nhttps://a.example/').columns).to.deep.equal(['Address']);
  });

  it('finds the column of a table that holds addresses; another can be picked', () => {
    const list = readUrlList(
      '\uFEFFname;page;old\nFern;https://a.example/1,2;/o1\n"Moss; wet";https://a.example/2;/o2\n',
    );
    expect(list.columns).to.deep.equal(['name', 'page', 'old']);
    expect(list.column).to.equal(1);
    expect(urlsOf(list, 1, home).urls).to.deep.equal(['https://a.example/1,2', 'https://a.example/2']);
    expect(urlsOf(list, 2, home).urls).to.deep.equal([`${home}/o1`, `${home}/o2`]);
    expect(urlsOf(list, 0, home)).to.deep.equal({ urls: [], notAddresses: 2 });
  });

  it('survives any text', () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        const list = readUrlList(text);
        urlsOf(list, list.column, home);
      }),
    );
  });
});
