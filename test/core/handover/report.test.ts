import { expect } from 'chai';
import { auditorHtml } from '../../../src/core/handover/report/auditor';
import { reportFacts, type ReportFacts } from '../../../src/core/handover/report/facts';
import { byHands, fixerHtml, fixerMarkdown } from '../../../src/core/handover/report/fixer';
import { html } from '../../../src/core/handover/report/html';
import { ownerHtml } from '../../../src/core/handover/report/owner';
import { sentenceOf } from '../../../src/core/handover/report/parts';
import { VISITORS, type Visitor } from '../../../src/core/load/visitors';
import { auditOf, PAGE } from '../../fixtures/har';

const phone = VISITORS[0] as Visitor;

function factsOf(body: string, title = 'Beds'): Promise<ReportFacts> {
  const audit = auditOf(
    `<!doctype html><html><head><title>x</title><script src="/kit.js"></script><link rel="stylesheet" href="http://a.example/s.css"></head><body>${body}</body></html>`,
    [
      { url: PAGE + 'kit.js', bytes: 120_000, start: 60 },
      { url: PAGE + 'hero.jpg', bytes: 300_000, start: 62 },
    ],
  );
  const { capture } = audit.page;
  return reportFacts(
    [
      {
        page: capture.page,
        title,
        device: 'phone',
        recordedAt: capture.recordedAt,
        graph: audit.graph,
        fixes: audit.fixes,
        findings: audit.findings,
        open: () => Promise.resolve(audit),
        notes: capture.notes,
      },
    ],
    { site: 'Fernhollow', day: '2026-11-12' },
    phone,
  );
}
const facts = await factsOf('<h1>Beds</h1><img src="/hero.jpg" alt="" loading="lazy" width="900" height="700">');

describe('core/handover/report', () => {
  it('says in one sentence what a visitor waits for, and what the fixes make of it', () => {
    expect(sentenceOf(facts)).to.match(
      /^A phone visitor on a busy mobile network waits [\d.]+ s for the main picture or text of this page; .* that to [\d.]+ s \(.*\)\.$/,
    );
    expect(facts.fixes.length).to.be.above(1);
  });

  it('gives all readers the same figures, which add up', () => {
    const { head, fixes } = facts;
    const saved = fixes.filter((f) => f.worthwhile).reduce((sum, f) => sum + f.addedMs, 0);
    expect(head.nowMs + saved).to.be.closeTo(head.afterMs, 1);
    for (const f of fixes) {
      expect(f.afterRange[0]).to.be.at.most(f.afterMs + 1);
      expect(f.afterRange[1]).to.be.at.least(f.afterMs - 1);
    }
    const [owner, fixer, auditor] = [ownerHtml(facts), fixerHtml(facts), auditorHtml(facts)];
    for (const one of [owner, fixer, auditor]) expect(one).to.contain(sentenceOf(facts).slice(0, 60));
  });

  it('groups tasks by who can make them, with the change and how to tell that it worked', () => {
    const groups = byHands(facts);
    expect(groups.map((g) => g.hands)).to.include('markup');
    const text = fixerHtml(facts);
    expect(text)
      .to.contain('Done when:')
      .and.to.match(/<pre>- .*loading=&quot;lazy&quot;/s);
    expect(fixerMarkdown(facts)).to.contain('```diff');
  });

  it('passes over nothing: harm beyond time, and what was not examined', () => {
    expect(facts.safety.map((s) => s.finding.harm)).to.include('broken');
    expect(ownerHtml(facts)).to.contain('What was not examined').and.to.contain('estimates');
    const count = facts.pages.flatMap((p) => p.findings).length;
    expect([...auditorHtml(facts).matchAll(/<td>\s*(broken|exposed|slow|tidy)\s*<\/td>/g)]).to.have.length(count);
  });

  it('escapes everything that pages say', async () => {
    const odd = await factsOf('<h1>x</h1><img src="/hero.jpg" alt="">', '</title><script>alert(1)</script>"\'&');
    for (const text of [ownerHtml(odd), fixerHtml(odd), auditorHtml(odd)]) {
      expect(text).not.to.contain('<script>alert');
      expect(text).to.contain("default-src 'none'");
    }
    expect(html`<p title="${'"><b>'}">${['<i>', html`<em>${'&'}</em>`]}</p>`.text).to.equal(
      '<p title="&quot;&gt;&lt;b&gt;">&lt;i&gt;<em>&amp;</em></p>',
    );
  });
});

describe('core/handover/report: what comes along', () => {
  const since = {
    day: '2026-11-05',
    thenMs: 6400,
    nowMs: 3100,
    pages: 8,
    gone: [{ plain: 'A blocked script.', pages: [PAGE] }],
    appeared: ['1', '2', '3', '4', '5', '6', '7', '1'].map((plain, i) => ({ plain, pages: [`${PAGE}${i}/`] })),
    cameBack: [],
    promises: [
      { title: 'Defer carousel.js', became: 'kept', kept: true },
      { title: 'Compress text', became: 'not done: the findings are still there', kept: false },
    ],
  };
  it('says what got better since the last time, and whether promises were kept', () => {
    const text = ownerHtml({ ...facts, since })
      .replace(/<[^>]+>/g, ' ')
      .replace(/\s+/g, ' ');
    expect(text).to.contain('visible after 3.1 s ; it was 6.4 s');
    expect(text)
      .to.match(/Repaired: A blocked script\. ?\(on Beds ?\)/)
      .and.to.match(/New: ?1 ?\(on \S*0\/ and \S*7\/ ?\).*and 2 more/);
    expect(text).to.contain('Came back: nothing');
    expect(text).to.contain('Of 2 fixes that were said to be done, one is.');
    const same = ownerHtml({ ...facts, since: { ...since, nowMs: 6390 } }).replace(/\s+/g, ' ');
    expect(same).to.contain('visible after 6.4 s, as before');
  });

  it('carries the firm on every report, as text', () => {
    const look = { firm: '<b>Ivy</b>', colour: '#0b6a66', foreword: 'One.\n\nTwo & three.', logo: 'AAAA' };
    for (const write of [ownerHtml, fixerHtml, auditorHtml]) {
      const out = write({ ...facts, look });
      expect(out).to.contain('&lt;b&gt;Ivy&lt;/b&gt;').and.to.contain('data:image/png;base64,AAAA');
      expect(out).to.contain('.firm{border-bottom-color:#0b6a66}');
      expect(out).to.contain('<p class="foreword">Two &amp; three.</p>');
    }
    expect(ownerHtml({ ...facts, look: { ...look, colour: 'red}body{display:none' } })).not.to.contain('red}');
  });

  it('shows a page coming up moment by moment, with what is not there yet', () => {
    const jpeg = Uint8Array.of(0xff, 0xd8, 0xff);
    const film = {
      title: 'Home',
      visitor: 'a phone',
      fixes: 2,
      moments: [
        { atMs: 500, after: jpeg },
        { atMs: 1000, before: jpeg, after: jpeg },
      ],
    };
    const out = ownerHtml({ ...facts, film });
    expect(out.match(/<img\s+src="data:image\/jpeg/g)).to.have.length(3);
    expect(out).to.contain('nothing yet').and.to.contain('alt="With the fixes, after 500 ms"');
  });
});
