import { expect } from 'chai';
import type { FetchNode } from '../../../src/core/load/graph';
import { auditOf, PAGE, type MadeLoad } from '../../fixtures/har';
import { fetchNode, graphOf, LINK, ms, ORIGIN, replay, script } from '../../fixtures/graph';

const page = (head: string, body: string, loads: readonly MadeLoad[] = []) =>
  auditOf(`<!doctype html><html><head>${head}</head><body>${body}</body></html>`, loads).graph;
const node = (graph: ReturnType<typeof page>, url: string) => graph.fetches.find((f) => f.url === url);

describe('core/load: the load event waits for what follows (HTML, 13.2.7)', () => {
  const follower = (values: Partial<FetchNode>) => fetchNode(2, { serverMs: 400, ...values });

  it('for the end of a redirect that comes last', () => {
    const g = graphOf([
      fetchNode(1, { redirectTo: 2, bodyBytes: 0 }),
      follower({ discovery: { by: 'fetch', fetch: 1, delayMs: 0 } }),
    ]);
    expect(ms(g).loadMs).to.be.at.least(replay(g).fetches[2]?.endMs ?? Infinity);
  });

  it('for what a frame loads', () => {
    const g = graphOf([
      fetchNode(1, { kind: 'frame' }),
      follower({ discovery: { by: 'fetch', fetch: 1, delayMs: 2 } }),
    ]);
    expect(ms(g).loadMs).to.be.at.least(replay(g).fetches[2]?.endMs ?? Infinity);
  });

  it('for what a script inserts while it runs, not for what it asks for by a timer', () => {
    const scripts = [script(0, 1, { mode: 'async' })];
    const own = fetchNode(1, { kind: 'script' });
    const at = (delayMs: number) =>
      graphOf([own, follower({ discovery: { by: 'script', script: 0, delayMs } })], { scripts });
    expect(ms(at(0)).loadMs).to.be.at.least(replay(at(0)).fetches[2]?.endMs ?? Infinity);
    expect(ms(at(900)).loadMs).to.be.below(replay(at(900)).fetches[2]?.sentMs ?? 0);
  });
});

describe('core/load: what a script asks for while it runs', () => {
  it('is on its way before the next script begins', () => {
    const files = [fetchNode(1, { kind: 'script', serverMs: 600 }), fetchNode(2, { kind: 'script' })];
    const asked = fetchNode(3, { discovery: { by: 'script', script: 0, delayMs: 0 } });
    const g = graphOf([...files, asked], {
      scripts: [script(0, 1, { mode: 'defer' }), script(1, 2, { mode: 'defer', runMs: 400 })],
    });
    const { fetches, scripts } = replay(g);
    expect(fetches[3]?.sentMs).to.be.below(scripts[1]?.endMs ?? 0);
    expect((fetches[3]?.sentMs ?? 0) - (scripts[0]?.endMs ?? 0)).to.be.below(20);
  });
});

describe('core/load: answers to requests of one moment', () => {
  it('share a connection from the start, however much a server keeps ready', () => {
    const large = fetchNode(1, { kind: 'script', bodyBytes: 900_000 });
    const picture = (id: number, bodyBytes: number) =>
      fetchNode(id, { kind: 'image', bodyBytes, priority: 1, discovery: { by: 'script', script: 0, delayMs: 0 } });
    const g = graphOf([large, picture(2, 600_000), picture(3, 60_000)], {
      scripts: [script(0, 1, { mode: 'async' })],
    });
    const [, , first, second] = replay(g).fetches;
    expect(second?.firstByteMs, 'after a turn of the first').to.be.below((first?.firstByteMs ?? 0) + 100);
    expect(second?.endMs).to.be.below((first?.endMs ?? 0) - 300);
  });
});

describe('core/load: connections', () => {
  it('makes every connection to a host wait for its name, not only the first', () => {
    const media = { origin: 'https://media.fernhollow.example', protocol: 'h1' as const };
    const g = { ...graphOf([fetchNode(1, media), fetchNode(2, media)]), lookups: true };
    const [, a, b] = replay(g).fetches;
    expect(b?.firstByteMs).to.be.closeTo(a?.firstByteMs ?? 0, LINK.rttMs / 2);
  });

  it('tells requests without credentials apart, and hints for them (Fetch, 2.6)', () => {
    const cdn = 'https://cdn.example/';
    const loads = ['a.js', 'b.js', 'c.js', 'd.json', 'e.png'].map((name) => ({
      url: cdn + name,
      bytes: 900,
      start: 60,
      lens: name === 'd.json' ? { kind: 'data', initiator: { type: 'script', url: PAGE, line: 1 } } : undefined,
    }));
    const g = page(
      `<link rel="preconnect" href="//cdn.example" crossorigin><link rel="preconnect" href="https://cdn.example"><script src="${cdn}a.js"></script><script type="module" src="${cdn}b.js"></script><script crossorigin src="${cdn}c.js"></script>`,
      `<p>Ferns</p><img src="${cdn}e.png">`,
      loads,
    );
    const anonymous = g.fetches.filter((f) => f.anonymous).map((f) => f.url.replace(cdn, ''));
    expect(anonymous).to.have.members(['b.js', 'c.js', 'd.json']);
    expect(g.preconnects.map((p) => [p.origin, p.anonymous ?? false])).to.deep.equal([
      ['https://cdn.example', true],
      ['https://cdn.example', false],
    ]);
  });

  it('does not take HSTS from an answer over http (RFC 6797, 8.1)', () => {
    const headers = { 'strict-transport-security': 'max-age=31536000' };
    const g = page('', '<p>x</p>', [
      { url: 'http://old.example/a.png', bytes: 90, headers },
      { url: 'https://new.example/a.png', bytes: 90, headers },
    ]);
    expect(g.hsts).to.deep.equal(['new.example']);
  });
});

describe('core/load: what of a page is seen first', () => {
  const content = (body: string) => {
    const html = `<!doctype html><html><head></head><body>${body}</body></html>`;
    return html.slice(auditOf(html).graph.document.contentOffset).slice(0, 12);
  };

  it('is text that stands directly in a container', () => {
    expect(content('<div><div>Plant sale</div></div><p>Later</p>')).to.match(/^Plant sale/);
    expect(content('<main><div>  </div><p>First words</p></main>')).to.match(/^First words/);
    expect(content('<div><!-- nothing --></div><h1>Garden</h1>')).to.match(/^Garden/);
  });

  it('is text behind other elements, too', () => {
    expect(content('<div><i class="icon"></i> Opening hours</div>')).to.match(/^Opening/);
    expect(content('<p><span></span><b> </b>Ferns</p><p>Later</p>')).to.match(/^Ferns/);
  });

  it('is no element that shows nothing by itself (Paint Timing, 2)', () => {
    expect(content('<garden-app></garden-app><p>Later</p>'), 'an element that a script defines').to.match(/^Later/);
    expect(content('<span></span><hr><a href="/"></a><p>Later</p>'), 'empty boxes').to.match(/^Later/);
    expect(content('<iframe src="/map"></iframe><p>Later</p>'), 'a frame paints for itself').to.match(/^Later/);
    expect(content('<video src="a.mp4"><p>No film</p></video>'), 'a film').to.match(/^<p>No film/);
    expect(content('<canvas><p>No drawing</p></canvas><p>Later</p>'), 'what stands in for a canvas').to.match(/^Later/);
    expect(content('<input type="hidden" value="x"><input type="checkbox"><p>Later</p>')).to.match(/^Later/);
  });

  it('comes no sooner than what a link of the head expects (HTML, 4.6.7.6)', () => {
    const expecting = (link: string) => {
      const html = `<!doctype html><html><head>${link}</head><body><p>First</p><main id="beds">Beds</main><p>Later</p></body></html>`;
      return html.slice(auditOf(html).graph.document.contentOffset);
    };
    const link = '<link rel="expect" href="#beds" blocking="render"';
    expect(expecting('')).to.match(/^First/);
    expect(expecting(`${link}>`)).to.match(/^<p>Later/);
    expect(expecting(`${link} media="(min-width: 2000px)">`)).to.match(/^First/);
    expect(expecting(link.replace('#beds', '#gone') + '>')).to.equal('');
    expect(expecting('<link rel="expect" href="#beds">')).to.match(/^First/);
  });

  it('is a picture, a drawing with a size, or the words of a field', () => {
    expect(content('<img src="a.png"><p>Later</p>')).to.match(/^<p>Later/);
    expect(content('<svg viewBox="0 0 9 9"></svg><p>Later</p>')).to.match(/^<\/svg><p>/);
    expect(content('<svg width="0" height="0"><text>x</text></svg><p>Later</p>'), 'a sprite').to.match(/^Later/);
    expect(content('<input placeholder="Search"><p>Later</p>')).to.match(/^<p>Later/);
    expect(content('<input type="submit"><p>Later</p>')).to.match(/^<p>Later/);
  });

  it('is what a script makes, where the document has only places for it', () => {
    const g = page('', '<garden-app></garden-app><script>build()</script>', []);
    expect(g.document.contentBuiltBy).to.be.at.least(0);
    expect(page('', '<garden-app>Wait</garden-app><script>build()</script>', []).document.contentBuiltBy).to.equal(-1);
  });
});

describe('core/load: lazy frames', () => {
  it('load when layout finds them near, and do not hold the load event', () => {
    const url = 'https://maps.example/';
    const g = page('', `<p>Where we are</p><iframe loading="lazy" src="${url}"></iframe>`, [
      { url, body: '<p>map</p>', start: 100, lens: { kind: 'frame' } },
    ]);
    expect(node(g, url)?.discovery.by).to.equal('layout');
    expect(node(g, url)?.holdsLoad).to.equal(false);
    expect(node(g, PAGE)?.origin).to.equal(ORIGIN);
  });
});
