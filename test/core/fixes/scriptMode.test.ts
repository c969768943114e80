import { expect } from 'chai';
import { applyEdits } from '../../../src/core/fixes/edits';
import { fixKind } from '../../../src/core/fixes';
import { applyFixes } from '../../../src/core/fixes/applyFixes';
import { simulate } from '../../../src/core/load/simulate';
import { DEFAULT_VISITOR } from '../../../src/core/load/visitors';
import { auditOf, PAGE } from '../../fixtures/har';

const THIRD = 'https://count.petalmetrics.example/';

/** A page with one script in its head. */
function pageWith(attributes: string, url = `${PAGE}kit.js`) {
  const html = `<!doctype html><html><head><title>x</title><script src="${url}"${attributes}></script></head><body><p>Ferns</p></body></html>`;
  const audit = auditOf(html, [{ url, body: 'a;'.repeat(9000), start: 40, wait: 300 }]);
  const findings = audit.findings.filter((f) => f.check === 'script-blocking');
  const fixed = (kind: string) => {
    const fix = audit.fixes.find((f) => f.kind === kind);
    return fix && applyEdits(html, fixKind(kind)?.onSource(fix, audit) ?? []).match(/<script[^>]*>/)?.[0];
  };
  return { audit, findings, fixed };
}

describe('core/fixes of scripts with blocking=render (HTML, 2.5.8)', () => {
  it('are offered for async, deferred and module scripts of the head that ask for it, as a list of words', () => {
    for (const attributes of [
      ' async blocking="render"',
      ' defer blocking=" x RENDER "',
      ' type="module" blocking="render"',
    ])
      expect(
        pageWith(attributes).findings.map((f) => f.title),
        attributes,
      ).to.deep.equal(['kit.js blocks the first paint by blocking=render (18 kB)']);
    for (const attributes of [' async', ' defer blocking="rendering"', ' async blocking=""'])
      expect(pageWith(attributes).findings, attributes).to.deep.equal([]);
  });

  it('take the attribute away, and leave the rest as it is', () => {
    expect(pageWith(' async blocking="render"').fixed('script-defer')).to.equal(`<script src="${PAGE}kit.js" async>`);
    expect(pageWith(' blocking="render"').fixed('script-defer')).to.equal(`<script defer src="${PAGE}kit.js">`);
    expect(pageWith(' defer blocking="render"', `${THIRD}c.js`).fixed('script-async')).to.equal(
      `<script async src="${THIRD}c.js">`,
    );
    const asynchronous = pageWith(' async blocking="render"', `${THIRD}c.js`);
    expect(asynchronous.fixed('script-async')).to.equal(undefined);
    expect(asynchronous.fixed('script-defer')).to.equal(`<script src="${THIRD}c.js" async>`);
    expect(asynchronous.audit.fixes.find((f) => f.kind === 'script-defer')?.title).to.equal(
      'Take blocking=render off c.js',
    );
  });

  it('let the page paint before the script in the forecast', () => {
    const { audit } = pageWith(' async blocking="render"');
    const fix = audit.fixes.filter((f) => f.kind === 'script-defer');
    const paint = (fixes: typeof fix) => simulate(applyFixes(audit.graph, fixes), DEFAULT_VISITOR).milestones.fcpMs;
    expect(paint(fix)).to.be.below(paint([]) - 100);
    expect(applyFixes(audit.graph, fix).scripts.map((s) => s.mode)).to.deep.equal(['async']);
  });
});
