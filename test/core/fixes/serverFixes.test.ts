import { expect } from 'chai';
import { applyFixes } from '../../../src/core/fixes/applyFixes';
import { fixChanges, fixKind } from '../../../src/core/fixes';
import type { Fix } from '../../../src/core/fixes/fix';
import { repeatVisit } from '../../../src/core/load/repeatVisit';
import { simulate } from '../../../src/core/load/simulate';
import { VISITORS } from '../../../src/core/load/visitors';
import { COUNT, faultySite, TYPE } from '../../fixtures/faultySite';
import { auditOf, PAGE, picture } from '../../fixtures/har';

const phone = VISITORS[0] as (typeof VISITORS)[number];
const audit = faultySite();
const fix = (kind: string, at = audit): Fix => {
  const found = at.fixes.find((f) => f.kind === kind);
  if (!found) throw new Error(`no ${kind}`);
  return found;
};
const after = (kind: string) => fixChanges(fix(kind), audit).map((c) => c.after.trim());
const figures = (fixes: readonly Fix[], at = audit) => simulate(applyFixes(at.graph, fixes), phone).milestones;
const now = figures([]);

describe('core/fixes of servers, fonts and files of others', () => {
  it('lets a foreign script come when it comes', () => {
    expect(after('script-async')).to.deep.equal([`<script async src="${COUNT}count.js"></script>`]);
    expect(figures([fix('script-async')]).fcpMs).to.be.below(now.fcpMs - 100);
  });

  it('serves a foreign file from the own host, which saves its connection and its wait', () => {
    const own = audit.fixes.find((f) => f.kind === 'self-host' && f.target === `${COUNT}count.js`) as Fix;
    const [change] = fixKind('self-host')?.onServer?.(own, audit) ?? [];
    expect(change).to.include({ do: 'copy', url: `${COUNT}count.js` });
    expect(fixChanges(own, audit)[0]?.after).to.contain(`src="${(change as { to: string }).to}"`);
    const g = applyFixes(audit.graph, [own]);
    expect(g.fetches.find((f) => f.url === `${COUNT}count.js`)?.origin).to.equal(new URL(PAGE).origin);
    expect(figures([own]).fcpMs).to.be.below(now.fcpMs - 100);
  });

  it('links what a sheet imports, before it', () => {
    const [link, sheet] = fixChanges(fix('import-flatten'), audit).sort((a, b) => a.url.length - b.url.length);
    expect(link?.after).to.contain(
      `<link rel="stylesheet" href="${PAGE}colours.css"><link rel="stylesheet" href="/site.css">`,
    );
    expect(sheet?.after.trim()).to.equal('');
    const g = applyFixes(audit.graph, [fix('import-flatten')]);
    const colours = g.fetches.find((f) => f.url === PAGE + 'colours.css');
    expect(colours?.discovery.by).to.equal('scanner');
    expect(g.styles.some((s) => s.fetch === colours?.id && s.blocking)).to.equal(true);
  });

  it('asks for fonts at once, connects early, and shows text before its font', () => {
    expect(after('font-preload')[0]).to.contain(`<link rel="preload" as="font" href="${TYPE}serif.woff" crossorigin>`);
    expect(after('preconnect')[0]).to.contain('<link rel="preconnect" href="https://type.fernhollow.example">');
    expect(after('font-swap')[0]).to.contain('@font-face{font-display:swap;font-family');
    expect(audit.graph.fetches[audit.graph.hero.font]?.url).to.equal(`${TYPE}serif.woff`);
    // Left to the browser the text shows after two seconds; a rule that says block hides it until the font is there.
    const block = {
      ...audit.graph,
      fetches: audit.graph.fetches.map((f) => ({ ...f, hidesUntilMs: undefined })),
    };
    const hidden = simulate(block, phone).milestones.lcpMs;
    expect(now.lcpMs).to.be.at.most(hidden);
    for (const kind of ['font-swap', 'font-preload']) {
      expect(figures([fix(kind)]).lcpMs, kind).to.be.at.most(now.lcpMs);
      expect(simulate(applyFixes(block, [fix(kind)]), phone).milestones.lcpMs, kind).to.be.below(hidden - 100);
    }
  });

  it('names the WOFF 2 file with its format, and makes a font smaller', () => {
    expect(after('font-convert')[0]).to.contain(`url("${TYPE}serif.woff2") format("woff2")`);
    expect(figures([fix('font-convert')]).bytes).to.be.below(now.bytes);
    expect(fixKind('font-convert')?.onServer?.(fix('font-convert'), audit)).to.deep.equal([
      { do: 'convert', url: `${TYPE}serif.woff`, to: `${TYPE}serif.woff2` },
    ]);
  });

  it('moves everything when the server answers sooner', () => {
    const sooner = figures([fix('server-faster')]);
    expect(now.ttfbMs - sooner.ttfbMs).to.be.closeTo(900 - 1 - 100, 5);
    expect(now.lcpMs - sooner.lcpMs).to.be.above(300);
  });

  it('changes second visits only by what is kept, and saves the hop over http', () => {
    const kept = audit.fixes.filter((f) => f.kind === 'cache-policy');
    expect(figures(kept).lcpMs).to.equal(now.lcpMs);
    const again = (fixes: readonly Fix[]) => simulate(repeatVisit(applyFixes(audit.graph, fixes)), phone).milestones;
    expect(again(kept).fcpMs).to.be.below(again([]).fcpMs - 300);
    const entered = auditOf(
      '<!doctype html><title>x</title><p>hello',
      [],
      { hero: { timeMs: 1, size: 1, tag: 'p' } },
      PAGE,
      { headers: { server: 'made-up', vary: 'x' } },
    );
    const hop = { ...(entered.graph.fetches[0] as (typeof entered.graph.fetches)[number]) };
    const graph = {
      ...entered.graph,
      fetches: [
        {
          ...hop,
          url: 'http://www.fernhollow.example/',
          origin: 'http://www.fernhollow.example',
          secure: false,
          redirectTo: 1,
        },
        { ...hop, id: 1, load: 1, discovery: { by: 'fetch', fetch: 0, delayMs: 0 } as const },
      ],
      document: { ...entered.graph.document, fetch: 1 },
    };
    const held = applyFixes(graph, [fix('hsts', entered)]);
    expect(simulate(held, phone).milestones.ttfbMs).to.equal(simulate(graph, phone).milestones.ttfbMs);
    const second = (g: typeof graph) => simulate(repeatVisit(g), phone).milestones.ttfbMs;
    expect(second(held as typeof graph)).to.be.below(second(graph) - 250);
  });

  it('takes layout shift out where room is kept', () => {
    const a = auditOf(
      '<!doctype html><body><img src="/a.jpg"><p>text</p>',
      [{ url: PAGE + 'a.jpg', bytes: 20_000, start: 60 }],
      {
        pictures: [picture(PAGE + 'a.jpg', { path: 'html:nth-of-type(1)>body:nth-of-type(1)>img:nth-of-type(1)' })],
      },
    );
    const recorded = { ...a.graph.recorded, cls: 0.25, shifted: 0.2 };
    const graph = { ...a.graph, shifts: [{ fetch: 1, score: 0.2 }], recorded };
    expect(simulate(graph, phone).milestones.cls).to.be.closeTo(0.25, 1e-9);
    const fixed = applyFixes(graph, [fix('dimensions', a)]);
    expect(simulate(fixed, phone).milestones.cls).to.be.closeTo(0.05, 1e-9);
    expect(fixChanges(fix('dimensions', a), a)[0]?.after).to.contain('width="1000"');
  });

  it('inlines what the first screen needs, whose addresses work from anywhere', () => {
    const sheet = `.lead{color:red;background:url(p/a.jpg)}\n.other{color:blue}\n@media print{.other{color:black}}${'.idle{margin:0}'.repeat(900)}`;
    const a = auditOf(
      '<!doctype html><html><head><link rel="stylesheet" href="/css/big.css"></head><body><h1 class="lead">x</h1></body></html>',
      [{ url: PAGE + 'css/big.css', body: sheet, start: 60 }],
      { hero: { timeMs: 1, size: 1, tag: 'h1' } },
    );
    const [change] = fixChanges(fix('style-inline-critical', a), a);
    expect(change?.after).to.contain(`<style>.lead{color:red;background:url(${PAGE}css/p/a.jpg)}</style>`);
    expect(change?.after).to.match(/media="print" onload="this\.media='all'"/);
    const g = applyFixes(a.graph, [fix('style-inline-critical', a)]);
    expect(g.document.decodedBytes).to.be.above(a.graph.document.decodedBytes);
    expect(g.styles.every((s) => !s.blocking)).to.equal(true);
    const cut = fixChanges(fix('style-remove-unused', a), a);
    expect(cut.map((c) => c.before).join('')).to.contain('.idle');
    expect(cut.map((c) => c.after).join('')).not.to.match(/idle|other/);
  });
});
