import { expect } from 'chai';
import { auditOf, PAGE, type MadeFacts, type MadeLoad } from '../../fixtures/har';

const page = (body: string, head = '') =>
  `<!doctype html>\n<html><head><title>x</title>${head}</head>\n<body>${body}</body></html>`;
const script = (name: string, bytes: number, start = 30): MadeLoad => ({
  url: PAGE + name,
  body: 'a;'.repeat(bytes / 2),
  start,
});
const APP = '<script type="module" src="/app.js"></script>';
const found = (html: string, loads: readonly MadeLoad[] = [script('app.js', 40_000)], facts?: MadeFacts) =>
  auditOf(html, loads, facts).findings.filter((f) => f.check === 'content-by-script');

describe('check content-by-script', () => {
  it('finds a page that a script builds, and names the script and its place', () => {
    const [one, ...more] = found(page('<div id="root"></div><noscript>No scripts here</noscript>', APP));
    expect(more).to.deep.equal([]);
    expect(one?.title).to.equal('Nothing is shown until app.js has run (40 kB)');
    expect([one?.target, one?.evidence.source?.line, one?.harm]).to.deep.equal([`${PAGE}app.js`, 2, 'slow']);
  });

  it('finds nothing where text or a picture is in the HTML', () => {
    expect(found(page('<main>Opening hours</main>', APP))).to.deep.equal([]);
    expect(found(page('<main><img src="/map.png"></main>', APP))).to.deep.equal([]);
    expect(found(page('Text right in the body', APP))).to.deep.equal([]);
  });

  it('finds text that a style hides until a script shows it, and not what an animation shows', () => {
    const hidden = (style: string) => page('<h1>Opening hours</h1>', `<style>${style}</style>${APP}`);
    expect(found(hidden('body{opacity:0}')).length).to.equal(1);
    expect(found(hidden('.off{opacity:0}'))).to.deep.equal([]);
    expect(found(hidden('@keyframes show{from{opacity:0}}body{opacity:0;animation:show 1s both}'))).to.deep.equal([]);
  });

  it('counts the scripts that had run before the first paint, all of them in the evidence', () => {
    const work = (name: string, startMs: number) =>
      ({ kind: 'script', url: PAGE + name, startMs, durationMs: 40, phase: 'evaluate' }) as const;
    const [one] = found(
      page(
        '<div id="root"></div>',
        '<script src="/kit.js"></script><script src="/app.js"></script><script src="/later.js" async></script>',
      ),
      [script('app.js', 40_000), script('kit.js', 90_000), script('later.js', 70_000), script('idle.js', 50_000)],
      { fcpMs: 300, work: [work('kit.js', 100), work('app.js', 150), work('later.js', 600)] },
    );
    expect(one?.title).to.equal('Nothing is shown until kit.js and 1 other script have run (130 kB)');
    expect(one?.evidence.files?.map((f) => f.url)).to.deep.equal([`${PAGE}kit.js`, `${PAGE}app.js`]);
  });

  it('counts inline scripts, and leaves small ones alone', () => {
    const inline = (bytes: number) => page(`<div id="root"></div><script>${'a;'.repeat(bytes / 2)}</script>`);
    expect(found(inline(20_000), [])[0]?.title).to.equal('Nothing is shown until inline scripts have run (20 kB)');
    expect(found(inline(2000), [])).to.deep.equal([]);
    expect(found(page('<script type="application/json">' + '1'.repeat(20_000) + '</script>'), [])).to.deep.equal([]);
  });

  it('says nothing of pages that show another document, or nothing at all', () => {
    expect(found(page('<iframe src="/tour"></iframe>', APP))).to.deep.equal([]);
    expect(found(page('<div id="root"></div>'), [])).to.deep.equal([]);
  });
});
