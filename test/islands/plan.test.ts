import { expect } from 'chai';
import { parseVisitor, specText, VISITORS, visitorSpec } from '../../src/core/load/visitors';
import { newsParts } from '../../src/islands/brief/News';
import { worthOfGroup } from '../../src/islands/brief/groupWorth';
import { cutLine, firstLine, lineMarks } from '../../src/islands/page/sourceLines';
import { overlapText } from '../../src/islands/plan/FixTable';
import { scopeOptions } from '../../src/islands/plan/ScopePick';
import { asVisitor, describeVisitor } from '../../src/islands/state/visitors';
import { fieldFault, fieldsOf, VISITOR_FIELDS } from '../../src/islands/visitors/visitorForm';

describe('islands/plan', () => {
  it('names what already wins an overlap', () => {
    const groups = [{ id: 'p', title: 'Preload the heroes' }] as never;
    const text = (aloneMs: number, addedMs: number, id?: string) =>
      overlapText({ aloneMs, addedMs, ...(id && { coveredBy: { id } }) }, { groups });
    expect(text(-800, -790)).to.equal('');
    expect(text(-800, -10, 'p')).to.equal('no further saving: already covered by “Preload the heroes”');
    expect(text(-800, -10)).to.equal('no further saving on top of those above');
    expect(text(-800, -300, 'p')).to.equal('500 ms already saved by “Preload the heroes”');
    expect(text(-800, -1300)).to.equal('500 ms more in combination with those above');
  });

  it('offers all pages, templates of several pages and the page at hand as scopes', () => {
    const page = (captureId: number, template?: string) => ({
      captureId,
      title: `Page ${captureId}`,
      page: `https://www.fernhollow.example/${captureId}`,
      template: template ? { id: template, name: `Bed ${template}` } : undefined,
    });
    const pages = [page(1, 'a'), page(2, 'a'), page(3, 'b'), page(4)];
    expect(scopeOptions(pages, { kind: 'all' }, undefined).map((o) => o.name)).to.deep.equal([
      'all 4 pages',
      '2 pages of the template Bed a',
    ]);
    expect(scopeOptions(pages, { kind: 'all' }, 3).at(-1)?.name).to.equal('this page only: Page 3');
    const chosen = scopeOptions(pages, { kind: 'template', template: 'b' }, undefined);
    expect(chosen.map((o) => o.name)).to.include('1 page of the template Bed b');
  });
});

describe('islands/brief', () => {
  it('calculates what a group of fixes is worth over all links to its pages', () => {
    const pages = [
      { captureId: 1, linksIn: 9 },
      { captureId: 2, linksIn: 0 },
    ];
    const gains = [[1, 1000] as const, [2, -50] as const];
    const worth = worthOfGroup(gains, pages);
    expect(worth.short).to.equal('910 ms a page × 11 visits');
    expect(worthOfGroup([], pages).short).to.equal('0 pages');
    expect(worthOfGroup(gains, []).text).to.contain('is not known');
  });

  it('tells news in the order of their weight, and leaves out what there is none of', () => {
    const list = [{}] as never;
    expect(
      newsParts({
        appeared: list,
        cameBack: [],
        gone: list,
        stayed: 3,
        notLookedAt: [],
        pagesAdded: [],
        pagesDropped: [],
      }).map((p) => p.text),
    ).to.deep.equal(['1 new', '1 resolved']);
  });
});

describe('islands/page/sourceLines', () => {
  const finding = (id: string, line: number, url = 'https://a.example/') =>
    ({ id, title: `T ${id}`, evidence: { source: { url, line, column: 1, text: '' } } }) as never;
  const view = {
    row: { page: 'https://a.example/' },
    findings: [finding('x', 7), finding('y', 7), finding('z', 3), finding('css', 1, 'https://a.example/s.css')],
    fixes: [
      {
        group: 'g',
        changes: [{ url: 'https://a.example/', line: 5, column: 1, offset: 9, before: 'a', after: 'b\nc' }],
      },
      {
        group: 'h',
        changes: [{ url: 'https://a.example/s.css', line: 1, column: 1, offset: 0, before: 'a', after: 'b' }],
      },
    ],
  };

  it('marks lines of the page with findings and with what the bench makes of them', () => {
    const marks = lineMarks(view, ['g', 'h']);
    expect(marks.map((m) => [m.line, m.findings.length, m.after])).to.deep.equal([
      [3, 1, undefined],
      [5, 0, ['b', 'c']],
      [7, 2, undefined],
    ]);
    expect(lineMarks(view, []).map((m) => m.line)).to.deep.equal([3, 7]);
  });

  it('looks first at what was asked for, then at a change, then at a finding', () => {
    expect(firstLine(lineMarks(view, ['g']), 9)).to.equal(9);
    expect(firstLine(lineMarks(view, ['g']), undefined)).to.equal(5);
    expect(firstLine(lineMarks(view, []), undefined)).to.equal(3);
    expect(firstLine([], undefined)).to.equal(undefined);
  });

  it('cuts lines that nobody reads, and says so', () => {
    expect(cutLine('short')).to.equal('short');
    expect(cutLine('x'.repeat(3000))).to.match(/^x{2000} … \(3,000 characters\)$/);
  });
});

describe('islands/visitors', () => {
  it('writes the fields of every built-in visitor as a spec that reads back', () => {
    for (const v of VISITORS) {
      const read = parseVisitor(specText(fieldsOf(v)));
      expect(fieldsOf(read)).to.deep.equal(fieldsOf(v));
      expect(visitorSpec(v)).to.equal(v.id);
      expect(read.id).to.equal(visitorSpec(read));
      for (const f of VISITOR_FIELDS) expect(fieldFault(f, v[f.name])).to.equal(undefined);
    }
  });

  it('says in words what is wrong with a field', () => {
    const rtt = VISITOR_FIELDS.find((f) => f.name === 'rttMs') as (typeof VISITOR_FIELDS)[number];
    expect(fieldFault(rtt, NaN)).to.equal('Round trip needs a number.');
    expect(fieldFault(rtt, -1)).to.equal('Round trip goes from 0 to 3,000 ms.');
  });

  it('names own visitors by their name, others by device and connection', () => {
    const own = asVisitor({ id: 1, name: 'Train', spec: 'phone-busy,rtt=300' });
    expect(own).to.include({ name: 'Train', rttMs: 300, who: 'A visitor (Train)' });
    expect(describeVisitor(own)).to.equal('400 x 860, 300 ms, 2 Mbit/s');
  });
});
