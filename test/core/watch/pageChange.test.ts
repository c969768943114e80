import { expect } from 'chai';
import fc from 'fast-check';
import { alwaysChanging, changesBetween, wordRuns, type PageChange } from '../../../src/core/watch/pageChange';
import { readSnapshot } from '../../../src/core/watch/pageSnapshot';

const URL_ = 'https://www.fernhollow.example/sale/';
const read = (body: string, head = '<title>Plant sale</title>', headers: Record<string, string> = {}) =>
  readSnapshot({
    url: URL_,
    status: 200,
    html: `<!doctype html><html lang="en"><head>${head}</head><body>${body}</body></html>`,
    headers: { 'content-type': 'text/html', date: 'now', ...headers },
  });
const told = (changes: readonly PageChange[]) =>
  changes.map(
    (c) =>
      `${c.part}|${c.where}|${c.words.map((w) => `${{ same: ' ', removed: '-', added: '+' }[w.kind]}${w.text}`).join('')}`,
  );

describe('core/watch: page changes', () => {
  it('reads title, canonical, robots, headings, text by block, third parties', () => {
    const s = read(
      '<main id="m"><h1>Plant <em>sale</em></h1><p>Saturday, <b>ten</b> to four.</p><script src="https://widgets.petalmetrics.example/w.js"></script><script>var hidden = 1</script><img src="/a.jpg"></main>',
      '<title> Plant\n sale </title><meta name="description" content="Ferns"><meta name="robots" content="nofollow"><link rel="canonical" href="/sale/">',
      { 'x-robots-tag': 'noindex' },
    );
    expect(s).to.deep.include({
      title: 'Plant sale',
      description: 'Ferns',
      canonical: 'https://www.fernhollow.example/sale/',
      robots: 'nofollow, noindex',
      language: 'en',
      headings: ['Plant sale'],
      thirdParties: ['widgets.petalmetrics.example'],
    });
    expect(s.text).to.deep.equal([
      { path: 'main#m > h0', text: 'Plant sale' },
      { path: 'main#m > p', text: 'Saturday, ten to four.' },
    ]);
    expect(s.headers).not.to.have.property('date');
  });

  it('shows how the hero is written, and that it is another', () => {
    const hero = '<img src="/p/tables.jpg?token=abcdef0123456789abcdef" width="900" height="600" loading="lazy">';
    const small = '<img src="/i/logo.svg" width="40" height="40">';
    const with_ = (body: string, heroUrl?: string) =>
      readSnapshot({ url: URL_, status: 200, html: body, headers: {}, heroUrl });
    const url = 'https://media.fernhollow.example/p/tables.jpg?token=abcdef0123456789abcdef';
    const before = with_(small + '<img src="/p/other.jpg">' + hero, url);
    expect(before.hero).to.match(/^<img src="\/p\/tables\.jpg\?token=[^"]*" width="900" height="600" loading="lazy">$/);
    expect(before.hero, 'secrets are cut').not.to.contain('abcdef0123456789abcdef');
    expect(with_(small + hero).hero, 'guessed: the first that is not small').to.contain('tables.jpg');
    expect(with_('<p>none</p>', url).hero).to.equal('');
    const eager = with_(small + '<img src="/p/other.jpg">' + hero.replace('lazy', 'eager'), url);
    const found = changesBetween(before, eager).filter((c) => c.part === 'hero');
    expect(told(found)[0]).to.match(/-loading="lazy">\+loading="eager">$/);
    expect(
      told(changesBetween(before, with_(small + '<img src="/p/new.jpg">', url)).filter((c) => c.part === 'hero'))[0],
    ).to.contain('new.jpg');
    // A visit of an earlier version kept no hero: nothing is said.
    const old = { ...before, hero: undefined };
    expect(changesBetween(old, eager).map((c) => c.part)).not.to.include('hero');
  });

  it('says nothing of a page that stayed as it was', () => {
    expect(changesBetween(read('<p>a</p>'), read('<p>a</p>', undefined, { date: 'later' }))).to.deep.equal([]);
  });

  it('shows a changed text word by word, at its place', () => {
    const before = read('<main><p>Open from ten to four.</p><p>Free entry.</p></main>');
    const after = read(
      '<main><p>Open from nine to four.</p><p>Free entry.</p></main>',
      '<title>Plant sale 2027</title>',
    );
    expect(told(changesBetween(before, after))).to.deep.equal([
      'title|| Plant sale+ 2027',
      'text|main > p| Open from -ten+nine  to four.',
    ]);
  });

  it('names hosts, headers and elements that came or went', () => {
    const before = read('<p>a</p>', undefined, { 'content-security-policy': 'default-src *' });
    const after = read('<p>a</p><img src="https://photos.hedgerow.example/x.jpg">');
    expect(told(changesBetween(before, after))).to.deep.equal([
      'hero||+<img src="https://photos.hedgerow.example/x.jpg">',
      'structure|img|+1 × img',
      'third parties|photos.hedgerow.example|+photos.hedgerow.example',
      'headers|content-security-policy|-default-src *',
    ]);
  });

  it('learns from two visits at once what always changes, and leaves it aside by its place', () => {
    const visit = (clock: string, price: string) =>
      read(`<p class="clock">${clock}</p><p class="price">${price}</p>`, undefined, { 'x-request': clock });
    const learned = alwaysChanging(visit('10:01:02', '4 pounds'), visit('10:01:03', '4 pounds'));
    expect(learned).to.deep.equal([
      { part: 'text', where: 'p.clock' },
      { part: 'headers', where: 'x-request' },
    ]);
    expect(told(changesBetween(visit('10:01:02', '4 pounds'), visit('18:00:00', '5 pounds'), learned))).to.deep.equal([
      'text|p.price|-4+5  pounds',
    ]);
  });

  it('leaves a whole part aside when asked to', () => {
    const [a, b] = [read('<p>a</p>'), read('<p>b</p><i></i>')];
    expect(changesBetween(a, b, [{ part: 'text' }, { part: 'structure' }])).to.deep.equal([]);
  });

  it('does not call a block that moved a changed text', () => {
    const before = read('<div><p>one</p><p>two</p><p>three</p></div>');
    expect(told(changesBetween(before, read('<div><p>three</p><p>one</p><p>two</p></div>')))).to.deep.equal([]);
  });

  it('bounds what hostile markup can cost', () => {
    const deep = read('<div>'.repeat(20_000) + 'x');
    expect(deep.text.length).to.be.lessThan(4001);
    const many = (salt: string) => read(Array.from({ length: 20_000 }, (_, i) => `<p>${salt}${i}</p>`).join(''));
    expect(changesBetween(many('a'), many('b')).length).to.be.lessThan(201);
    expect(read('<p>x</p><p id="__proto__">y</p>').structure).to.have.property('p#__proto__', 1);
  });

  it('gives both texts back from the runs of their words', () => {
    const text = fc
      .array(fc.constantFrom('fern', 'moss', 'a', ' ', '\n', 'ä'), { maxLength: 30 })
      .map((w) => w.join(''));
    fc.assert(
      fc.property(text, text, (a, b) => {
        const runs = wordRuns(a, b);
        const side = (not: string) =>
          runs
            .filter((r) => r.kind !== not)
            .map((r) => r.text)
            .join('');
        expect(side('added')).to.equal(a);
        expect(side('removed')).to.equal(b);
      }),
    );
  });
});
