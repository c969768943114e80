import { expect } from 'chai';
import { applyFixes } from '../../../src/core/fixes/applyFixes';
import type { Fix } from '../../../src/core/fixes/fix';
import { simulate } from '../../../src/core/load/simulate';
import { DOCUMENT, fetchNode, graphOf, LINK, ORIGIN, replay } from '../../fixtures/graph';
import { auditOf, PAGE, type MadeLoad } from '../../fixtures/har';

const CSS = fetchNode(1, {
  kind: 'style',
  priority: 4,
  url: `${ORIGIN}/a.css`,
  discovery: { by: 'scanner', offset: 100 },
});
const STYLES = [{ fetch: 1, offset: 100, inHead: true, blocking: true }];
/** A page whose server thinks for 800 ms and sends Early Hints after 40. */
const hinting = (early: boolean, protocol: 'h1' | 'h2' = 'h2') => {
  const g = graphOf([{ ...CSS, protocol, bodyBytes: 60_000, ...(early && { early: true as const }) }], {
    styles: STYLES,
  });
  const [, ...others] = g.fetches;
  return { ...g, fetches: [{ ...DOCUMENT, protocol, serverMs: 800, hintsMs: 40 }, ...others] };
};

describe('core/load: Early Hints (RFC 8297)', () => {
  it('have files asked for before the page is there', () => {
    const [doc, css] = replay(hinting(true)).fetches;
    expect(css?.sentMs).to.be.below((doc?.firstByteMs ?? 0) - 600);
    expect(css?.endMs).to.be.below(doc?.firstByteMs ?? 0);
    const [, late] = replay(hinting(false)).fetches;
    expect(late?.sentMs).to.be.above(doc?.firstByteMs ?? 0);
  });

  it('let the page show sooner, by about what such a file took', () => {
    const early = replay(hinting(true)).milestones;
    const late = replay(hinting(false)).milestones;
    expect(early.fcpMs).to.be.within(late.fcpMs - 320, late.fcpMs - 120);
    expect(early.ttfbMs).to.be.closeTo(late.ttfbMs, 5);
    expect(early.bytes).to.equal(late.bytes);
  });

  it('show nothing before the page itself is there', () => {
    const { milestones } = replay(hinting(true));
    expect(milestones.fcpMs).to.be.above(milestones.ttfbMs);
    expect(milestones.dclMs).to.be.above(milestones.ttfbMs);
  });

  it('do nothing over HTTP/1.1, where browsers pass over them', () => {
    expect(replay(hinting(true, 'h1')).milestones).to.deep.equal(replay(hinting(false, 'h1')).milestones);
  });

  it('save nothing once the server answers at once', () => {
    const faster = (early: boolean) => {
      const g = hinting(early);
      return replay({ ...g, fetches: g.fetches.map((f) => (f.id === 0 ? { ...f, serverMs: 0 } : f)) }).milestones;
    };
    expect(faster(true).fcpMs).to.be.within(faster(false).fcpMs - 60, faster(false).fcpMs + 1);
  });

  it('count a file once that the page never takes', () => {
    const g = hinting(true);
    const unused = fetchNode(2, { early: true, discovery: { by: 'never' }, bodyBytes: 30_000 });
    const replayed = replay({ ...g, fetches: [...g.fetches, unused] });
    expect(replayed.milestones.bytes).to.equal(replay(g).milestones.bytes + 30_200);
    expect(replayed.milestones.loadMs, 'and do not hold the load event up').to.be.above(0);
  });

  it('connect early as well', () => {
    const far = fetchNode(2, { origin: 'https://far.example', url: 'https://far.example/a.png' });
    const g = hinting(true);
    const sent = (early: boolean) =>
      replay({
        ...g,
        fetches: [...g.fetches, far],
        preconnects: [{ origin: 'https://far.example', offset: 0, ...(early && { early: true as const }) }],
      }).fetches[2]?.sentMs ?? 0;
    expect(sent(true)).to.be.below(sent(false) - 2 * LINK.rttMs + 20);
  });
});

describe('core/load: what a recording tells of Link headers', () => {
  const hero: MadeLoad = { url: PAGE + 'hero.jpg', bytes: 90_000, start: 900 };
  const html = `<!doctype html><head><link rel="stylesheet" href="/a.css"></head><body><p>Ferns</p>${'<p>More</p>'.repeat(400)}<img src="/hero.jpg"></body>`;
  const css: MadeLoad = { url: PAGE + 'a.css', body: 'p{color:green}', start: 850 };
  const paint = { timeMs: 1200, size: 9000, tag: 'img', url: PAGE + 'hero.jpg', path: '' };
  const audit = (page: Partial<MadeLoad>, more: object = {}) =>
    auditOf(html, [css, { ...hero, lens: more }], { hero: paint }, PAGE, page);

  it('has a preloaded hero found when the page is taken over', () => {
    const { graph } = audit({ headers: { link: '</hero.jpg>; rel=preload; as=image' } });
    expect(graph.fetches[graph.hero.fetch]?.discovery).to.deep.equal({ by: 'scanner', offset: 0 });
    expect(audit({}).graph.fetches[2]?.discovery).to.not.deep.equal({ by: 'scanner', offset: 0 });
  });

  it('does not put it later for a preload in the markup', () => {
    const { graph } = audit({ headers: { link: '</hero.jpg>; rel=preload; as=image' } });
    const preload = { kind: 'hero-preload', page: PAGE, target: '*', values: {} } as Fix;
    expect(applyFixes(graph, [preload]).fetches[graph.hero.fetch]?.discovery).to.deep.equal({
      by: 'scanner',
      offset: 0,
    });
  });

  it('connects early for requests with and without credentials', () => {
    const { graph } = audit({
      headers: {
        link: '<https://a.example>; rel=preconnect, <https://b.example>; rel="preconnect dns-prefetch"; crossorigin',
      },
    });
    expect(graph.preconnects).to.deep.equal([
      { origin: 'https://a.example', offset: 0 },
      { origin: 'https://b.example', offset: 0, anonymous: true },
    ]);
  });

  it('counts on Early Hints for what may be kept only: anything else is fetched again', () => {
    const early = (control: string) => {
      const links = ['</a.css>; rel=preload; as=style'];
      const headers = { 'cache-control': control };
      const page = { lens: { earlyHints: { links, ms: 30 } } };
      const a = auditOf(html, [{ ...css, headers }, hero], { hero: paint }, PAGE, page);
      const twice = a.findings.filter((f) => f.check === 'preload-unused').map((f) => f.title);
      return [a.graph.fetches[1]?.early ?? false, twice.length];
    };
    expect(early('max-age=600')).to.deep.equal([true, 0]);
    expect(early('no-store')).to.deep.equal([false, 1]);
    expect(early('max-age=0, must-revalidate')).to.deep.equal([false, 1]);
  });

  it('knows what Early Hints brought, and when they came', () => {
    const links = ['</hero.jpg>; rel=preload; as=image'];
    const { graph, page } = audit({ wait: 700, lens: { earlyHints: { links, ms: 30 } } }, { fromEarlyHints: true });
    expect(page.headerLinks.map((l) => [l.url, l.early])).to.deep.equal([[PAGE + 'hero.jpg', true]]);
    expect(graph.fetches[0]?.hintsMs).to.equal(29);
    expect(graph.fetches[graph.hero.fetch]?.early).to.equal(true);
    const link = { rttMs: 100, downKbps: 4000, upKbps: 2000, cpuFactor: 1 };
    const { milestones, split, path } = simulate(graph, link);
    expect(milestones.lcpMs).to.be.below(simulate(audit({ wait: 700 }).graph, link).milestones.lcpMs - 150);
    expect(split.untilFoundMs).to.equal(0);
    expect(split.serverMs + split.untilFoundMs + split.transferMs + split.untilPaintedMs).to.be.closeTo(
      milestones.lcpMs,
      0.01,
    );
    expect(path.length).to.be.above(1);
  });
});
