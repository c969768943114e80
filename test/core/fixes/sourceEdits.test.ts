import { expect } from 'chai';
import fc from 'fast-check';
import { applyFixes } from '../../../src/core/fixes/applyFixes';
import { fixKind } from '../../../src/core/fixes';
import { applyEdits, type Edit } from '../../../src/core/fixes/edits';
import type { Fix } from '../../../src/core/fixes/fix';
import type { Audit } from '../../../src/core/plan/audit';
import { parseDocument } from '../../../src/core/source/document';
import { auditOf, PAGE, picture, type MadeLoad } from '../../fixtures/har';

const OWN = 'http://www.fernhollow.example/';
const MEDIA = 'https://media.fernhollow.example/';

/** The files of an audit's page after a fix. */
function edited(audit: Audit, fix: Fix): Map<string, string> {
  const edits = new Map<string, Edit[]>();
  for (const e of fixKind(fix.kind)?.onSource(fix, audit) ?? []) edits.set(e.url, [...(edits.get(e.url) ?? []), e]);
  const out = new Map<string, string>();
  for (const [url, own] of edits) {
    const load = audit.page.loadOf(url);
    const text = load && audit.page.bodies.text(load);
    if (text !== undefined) out.set(url, applyEdits(text, own));
  }
  return out;
}

const documentAfter = (html: string, kind: string, loads: readonly MadeLoad[] = [], target?: string) => {
  const audit = auditOf(html, loads);
  const fix = audit.fixes.find((f) => f.kind === kind && (target === undefined || f.target === target));
  if (!fix) throw new Error(`no ${kind}`);
  return edited(audit, fix).get(PAGE) ?? html;
};

describe('core/fixes write the right place', () => {
  it('upgrades JSON-LD inside its text, escapes and all', () => {
    const page = (url: string) =>
      `<!doctype html><title>x</title><script type="application/ld+json">{"@context":"http://schema.org","url":"${url}"}</script>`;
    expect(documentAfter(page(OWN + 'a'), 'http-upgrade')).to.equal(page('https://www.fernhollow.example/a'));
    expect(documentAfter(page('http:\\/\\/www.fernhollow.example\\/a'), 'http-upgrade')).to.equal(
      page('https:\\/\\/www.fernhollow.example\\/a'),
    );
  });

  it('upgrades one candidate of a srcset, or two, and leaves the rest', () => {
    const page = (a: string, b: string) =>
      `<!doctype html><title>x</title><img src="/s.jpg" srcset="${a}://x.example/a.jpg?p=1&amp;q=2 400w,\r\n ${b}://x.example/b.jpg 800w" alt='"'>`;
    const html = page('http', 'http');
    const audit = auditOf(html);
    const fixes = audit.fixes.filter((f) => f.kind === 'http-upgrade');
    expect(fixes).to.have.length(2);
    const [first, second] = fixes.map((f) => fixKind(f.kind)?.onSource(f, audit) ?? []);
    expect(applyEdits(html, first ?? [])).to.equal(page('https', 'http'));
    expect(applyEdits(html, [...(first ?? []), ...(second ?? [])])).to.equal(page('https', 'https'));
  });

  it('names the end of a redirect in one candidate only', () => {
    const html = '<!doctype html><title>x</title><img srcset="/old.jpg 1x, /other.jpg 2x">';
    const loads = [
      { url: PAGE + 'old.jpg', status: 301, redirectURL: PAGE + 'new.jpg', start: 10 },
      { url: PAGE + 'new.jpg', bytes: 9000, start: 20 },
    ];
    expect(documentAfter(html, 'redirect-skip', loads)).to.equal(
      `<!doctype html><title>x</title><img srcset="${PAGE}new.jpg 1x, /other.jpg 2x">`,
    );
  });

  it('upgrades addresses of style elements, style attributes and imported sheets', () => {
    const page = (s: string) =>
      `<!doctype html><title>x</title><style>\r\np{background:url("${s}://x.example/a.png")}</style><p style="background:url(${s}://x.example/b.png)">x`;
    for (const name of ['a.png', 'b.png'])
      expect(documentAfter(page('http'), 'http-upgrade', [], `http://x.example/${name}`)).to.contain(
        `https://x.example/${name}`,
      );
    const audit = auditOf('<!doctype html><title>x</title><link rel=stylesheet href=/a.css>', [
      { url: PAGE + 'a.css', body: '@import "/b.css";' },
      { url: PAGE + 'b.css', body: 'p{background:url(http://x.example/a.png)}' },
    ]);
    const fix = audit.fixes.find((f) => f.kind === 'http-upgrade');
    expect(fix && edited(audit, fix).get(PAGE + 'b.css')).to.equal('p{background:url(https://x.example/a.png)}');
  });

  it('changes the base element where that is what makes an address http', () => {
    const html = '<!doctype html><title>x</title><base href="http://www.fernhollow.example/"><img src="a.jpg">';
    expect(documentAfter(html, 'http-upgrade', [], OWN + 'a.jpg')).to.contain(
      '<base href="https://www.fernhollow.example/"><img src="a.jpg">',
    );
  });

  describe('a preload of a hero with candidates', () => {
    const at = (path: string) => ({
      hero: { timeMs: 400, size: 9, tag: 'img', url: PAGE + 'm.jpg', path },
    });
    const preload = (body: string, path: string) => {
      const audit = auditOf(
        `<!doctype html><html><head><title>x</title></head><body>${body}</body></html>`,
        [
          ...Array.from({ length: 12 }, (_, i) => ({ url: `${PAGE}${i}.png`, bytes: 9000, start: 10 + i })),
          { url: PAGE + 'm.jpg', bytes: 90_000, start: 50 },
        ],
        at(path),
      );
      const fix = audit.fixes.find((f) => f.kind === 'hero-preload');
      return fix && /<link[^>]*preload[^>]*>/.exec(edited(audit, fix).get(PAGE) ?? '')?.[0];
    };
    const body = 'html:nth-of-type(1)>body:nth-of-type(1)';

    it('names them all, with sizes', () => {
      expect(
        preload(
          '<img srcset="/m.jpg 1000w, /l.jpg 2000w" sizes="(min-width: 1px) 100vw" src="/m.jpg">',
          `${body}>img:nth-of-type(1)`,
        ),
      ).to.equal(
        `<link rel="preload" as="image" href="${PAGE}m.jpg" imagesrcset="/m.jpg 1000w, /l.jpg 2000w" imagesizes="(min-width: 1px) 100vw" fetchpriority="high">`,
      );
    });

    it('is for the screens on which the picture takes them', () => {
      const picture =
        '<picture><source media="(min-width: 900px)" srcset="/w.jpg"><source media="(max-width: 500px)" type="image/webp" srcset="/m.jpg 1x"><img src="/s.jpg"></picture>';
      expect(preload(picture, `${body}>picture:nth-of-type(1)>img:nth-of-type(1)`)).to.equal(
        `<link rel="preload" as="image" href="${PAGE}m.jpg" imagesrcset="/m.jpg 1x" media="(not ((min-width: 900px))) and (max-width: 500px)" type="image/webp" fetchpriority="high">`,
      );
    });

    it('takes candidates from where a loader keeps them', () => {
      expect(
        preload(
          '<img data-srcset="/m.jpg 1000w, /l.jpg 2000w" data-sizes="50vw" data-src="/m.jpg">',
          `${body}>img:nth-of-type(1)`,
        ),
      ).to.contain('imagesrcset="/m.jpg 1000w, /l.jpg 2000w" imagesizes="50vw"');
    });
  });
});

/** Pieces of pages, each with what it loads. `n` keeps their addresses apart. */
const PIECES: readonly ((n: number) => { html: string; loads?: MadeLoad[]; pictures?: string[] })[] = [
  (n) => ({ html: `<img src="http://x.example/${n}.jpg?a=1&amp;b=2">` }),
  (n) => ({ html: `<img alt='a "b"' srcset='http://x.example/${n}.jpg 1x, http://x.example/${n}b.jpg 2x'>` }),
  (n) => ({ html: `<a href=${OWN}${n}>page ${n}</a>` }),
  (n) => ({ html: `<p style="background:url('http://x.example/${n}.png')">text &amp; more</p>` }),
  (n) => ({ html: `<style>.p${n}{background:url(http://x.example/s${n}.png)}</style>` }),
  (n) => ({
    html: `<form action="http://x.example/${n}"><button formaction="http://x.example/${n}b">go</button></form>`,
  }),
  (n) => ({ html: `<script type="application/ld+json">{"url":"${OWN}ld${n}"}</script>` }),
  (n) => ({ html: `<video poster="http://x.example/${n}.jpg"></video><iframe src="http://x.example/${n}"></iframe>` }),
  (n) => ({ html: `<img class="lazy" data-src="http://x.example/d${n}.jpg" src="/blank.gif">` }),
  (n) => ({ html: `<meta property="og:url" content="${OWN}og${n}">` }),
  (n) => ({
    html: `<script src="/h${n}.js"></script>`,
    loads: [{ url: `${PAGE}h${n}.js`, body: 'var a;'.repeat(3000) }],
  }),
  (n) => ({
    html: `<link rel="stylesheet" href="/s${n}.css">`,
    loads: [
      {
        url: `${PAGE}s${n}.css`,
        body: `@import "/i${n}.css";.x${n}{background:url(http://x.example/c${n}.png)}${'p{a:b}'.repeat(3000)}`,
      },
      { url: `${PAGE}i${n}.css`, body: 'i{a:b}' },
    ],
  }),
  (n) => ({
    html: `<img src="${MEDIA}p${n}.jpg">`,
    loads: [{ url: `${MEDIA}p${n}.jpg`, bytes: 30_000 }],
    pictures: [`${MEDIA}p${n}.jpg`],
  }),
  (n) => ({
    html: `<img src="/r${n}.jpg" title=redirected>`,
    loads: [
      { url: `${PAGE}r${n}.jpg`, status: 302, redirectURL: `${PAGE}e${n}.jpg` },
      { url: `${PAGE}e${n}.jpg`, bytes: 3000 },
    ],
  }),
];

/** Checks whose findings the source alone decides: an edit must remove them from the old recording too. */
const FROM_SOURCE = new Set([
  'mixed-markup',
  'mixed-style',
  'mixed-form',
  'mixed-hint',
  'http-mention',
  'hero-lazy',
  'script-blocking',
  'offscreen-eager',
  'picture-hidden',
  'image-dimensions',
  'font-display',
]);

describe('core/fixes: every edit of generated pages', () => {
  const pages = fc
    .array(fc.nat(PIECES.length - 1), { minLength: 1, maxLength: 8 })
    .chain((picks) => fc.record({ picks: fc.constant(picks), lines: fc.constantFrom('\n', '\r\n', '') }));

  function build(picks: readonly number[], lines: string) {
    const pieces = picks.map((p, n) => (PIECES[p] as (typeof PIECES)[number])(n));
    const html = `<!doctype html>${lines}<html><head><meta charset="utf-8"><title>é &amp; x</title></head><body>${lines}${pieces.map((p) => p.html).join(lines)}</body></html>`;
    const loads = pieces.flatMap((p) => p.loads ?? []).map((l, i) => ({ start: 10 + i, ...l }));
    const pictures = pieces
      .flatMap((p) => p.pictures ?? [])
      .map((url, i) => picture(url, { box: { x: 0, y: 300 + i * 900, width: 300, height: 200 } }));
    return { html, loads, pictures };
  }

  it('parses, touches nothing else, removes its finding, brings no other, and agrees with the graph', () => {
    fc.assert(
      fc.property(pages, ({ picks, lines }) => {
        const { html, loads, pictures } = build(picks, lines);
        const audit = auditOf(html, loads, { pictures });
        const before = new Set(audit.findings.map((f) => `${f.check} ${f.target}`));
        const kindOf = new Map(audit.findings.map((f) => [f.id, f]));
        for (const fix of audit.fixes) {
          const files = edited(audit, fix);
          if (files.size === 0) continue;
          const document = files.get(PAGE) ?? html;
          const again = auditOf(
            document,
            loads.map((l) => (files.has(l.url) ? { ...l, body: files.get(l.url) } : l)),
            { pictures },
          );
          const label = `${fix.kind} ${fix.target} on ${html} gives ${document}`;
          const after = new Map(again.findings.map((f) => [`${f.check} ${f.target}`, f]));
          for (const id of fix.findings) {
            const finding = kindOf.get(id);
            if (finding && FROM_SOURCE.has(finding.check) && fix.kind !== 'self-host')
              expect(after.has(`${finding.check} ${finding.target}`), `${finding.check} stays: ${label}`).to.equal(
                false,
              );
          }
          for (const [key, f] of after)
            if (FROM_SOURCE.has(f.check) || f.check === 'preload-unused' || f.check === 'hero-preload-mismatch')
              expect(before.has(key), `new ${key}: ${label}`).to.equal(true);
          elementsAreAsBefore(html, document, fix.kind, label);
          agreesWithGraph(audit, again, fix, label);
        }
      }),
      { numRuns: 40, seed: 13 },
    );
  });

  /** The same elements in the same order but for those that the fix adds. */
  function elementsAreAsBefore(html: string, document: string, kind: string, label: string): void {
    const tags = (text: string) => parseDocument(text, PAGE).elements.map((e) => e.tag);
    const [old, now] = [tags(html), tags(document)];
    if (!/preload|preconnect|flatten|critical|eager/.test(kind)) expect(now, label).to.deep.equal(old);
    else {
      let at = 0;
      for (const tag of now) if (tag === old[at]) at++;
      expect(at, label).to.equal(old.length);
    }
  }

  /** What the graph of the edited page has must be what the fix makes of the graph. */
  function agreesWithGraph(audit: Audit, again: Audit, fix: Fix, label: string): void {
    const graph = applyFixes(audit.graph, [fix]);
    const modes = (g: typeof graph) => g.scripts.map((s) => `${g.fetches[s.fetch]?.url} ${s.mode}`).sort();
    if (fix.kind === 'script-defer' || fix.kind === 'script-async')
      expect(modes(again.graph), label).to.deep.equal(modes(graph));
    const blocking = (g: typeof graph) =>
      g.styles
        .filter((s) => s.blocking)
        .map((s) => g.fetches[s.fetch]?.url)
        .sort();
    if (fix.kind === 'style-nonblocking') expect(blocking(again.graph), label).to.deep.equal(blocking(graph));
    const lazy = (g: typeof graph) =>
      g.fetches
        .filter((f) => f.kind === 'image' && !f.holdsLoad)
        .map((f) => f.url)
        .sort();
    if (fix.kind === 'offscreen-lazy') expect(lazy(again.graph), label).to.deep.equal(lazy(graph));
  }
});
