import { expect } from 'chai';
import { applyFixes } from '../../../src/core/fixes/applyFixes';
import { applyEdits } from '../../../src/core/fixes/edits';
import { fixKind } from '../../../src/core/fixes';
import { simulate } from '../../../src/core/load/simulate';
import { VISITORS } from '../../../src/core/load/visitors';
import type { Audit } from '../../../src/core/plan/audit';
import { builtPage, CONTENT, SHELL } from '../../fixtures/builtPage';
import { PAGE } from '../../fixtures/har';

const phone = VISITORS[0] as (typeof VISITORS)[number];
const fixOf = (audit: Audit) => audit.fixes.filter((f) => f.kind === 'content-in-html');
const edits = (audit: Audit) => fixOf(audit).flatMap((f) => fixKind(f.kind)?.onSource(f, audit) ?? []);
const times = (audit: Audit, withFix: boolean) =>
  simulate(applyFixes(audit.graph, withFix ? fixOf(audit) : []), phone).milestones;

describe('core/fixes/contentInHtml', () => {
  it('writes what scripts have made where they put it, without scripts', () => {
    const audit = builtPage();
    expect(fixOf(audit).map((f) => f.title)).to.deep.equal(['Put content that scripts create into the HTML']);
    expect(applyEdits(SHELL, edits(audit))).to.equal(SHELL.replace('<div id="app">', `<div id="app">${CONTENT}`));
  });

  it('forecasts the paints without the wait for the script', () => {
    const audit = builtPage();
    const [before, after] = [times(audit, false), times(audit, true)];
    expect(after.fcpMs).to.be.below(before.fcpMs - 500);
    expect(after.lcpMs).to.be.below(before.lcpMs - 500);
  });

  it('forecasts what a recording of the edited page says', () => {
    const audit = builtPage();
    const html = applyEdits(SHELL, edits(audit));
    const edited = builtPage(html, { fcpMs: 120, lcpMs: 200 }, { start: 60, lens: { initiator: { type: 'parser' } } });
    expect(fixOf(edited)).to.deep.equal([]);
    expect(edited.findings.map((f) => f.check)).to.not.include('content-by-script');
    const graph = applyFixes(audit.graph, fixOf(audit));
    expect(graph.document.contentBuiltBy).to.equal(edited.graph.document.contentBuiltBy);
    expect(graph.hero.builtBy).to.equal(edited.graph.hero.builtBy);
    const discovery = ({ graph: g }: Pick<Audit, 'graph'>) => g.fetches[g.hero.fetch]?.discovery.by;
    expect(discovery({ graph })).to.equal(discovery(edited));
    expect(graph.fetches[graph.hero.fetch]?.priority).to.equal(2);
    expect(graph.document.decodedBytes).to.equal(edited.graph.document.decodedBytes);
  });

  it('offers content that a style hides as a task, and forecasts it where it stands', () => {
    const hidden = SHELL.replace('<div id="app">', `<style>body{opacity:0}</style><div id="app">${CONTENT}`);
    const audit = builtPage(hidden, { renderedHtml: hidden });
    expect(fixOf(audit).map((f) => f.title)).to.deep.equal(['Show the content before scripts have run']);
    expect(edits(audit)).to.deep.equal([]);
    expect(times(audit, true).fcpMs).to.be.below(times(audit, false).fcpMs - 500);
    const graph = applyFixes(audit.graph, fixOf(audit));
    expect(graph.document.decodedBytes).to.equal(audit.graph.document.decodedBytes);
  });

  it('takes a hint that is hidden for no content, and an id that stands there often for one element', () => {
    const hint = SHELL.replace('<body>', '<body><p hidden>No such bed</p>').replace(
      '</body>',
      '<div id="app"></div>'.repeat(3) + '</body>',
    );
    const audit = builtPage(hint);
    expect(fixOf(audit).map((f) => f.title)).to.deep.equal(['Put content that scripts create into the HTML']);
    expect(edits(audit).map((e) => e.text)).to.deep.equal([CONTENT]);
  });

  it('finds the places in a source without a body tag as well', () => {
    const bare = SHELL.replace(/<\/?(body|html)>/g, '');
    expect(applyEdits(bare, edits(builtPage(bare)))).to.equal(
      bare.replace('<div id="app">', `<div id="app">${CONTENT}`),
    );
  });

  it('assumes some markup where nobody has seen what scripts made: in a shadow tree, in a plain HAR', () => {
    const shadow = SHELL.replace('<div id="app"></div>', '<garden-beds></garden-beds>');
    for (const renderedHtml of [shadow, undefined]) {
      const audit = builtPage(shadow, { renderedHtml });
      expect(edits(audit)).to.deep.equal([]);
      expect(fixOf(audit)[0]?.values).to.deep.equal({});
      const graph = applyFixes(audit.graph, fixOf(audit));
      expect(graph.document.decodedBytes).to.be.above(audit.graph.document.decodedBytes + 5000);
      expect(times(audit, true).fcpMs).to.be.below(times(audit, false).fcpMs);
    }
  });

  it('changes nothing of a page whose HTML shows something', () => {
    const audit = builtPage(SHELL.replace('<div id="app">', `<div id="app">${CONTENT}`));
    const [fix] = fixOf(builtPage());
    expect(fix && applyFixes(audit.graph, [fix])).to.equal(audit.graph);
    expect(fix?.page).to.equal(PAGE);
  });
});
