import zlib from 'node:zlib';
import { expect } from 'chai';
import type { Fix } from '../../../src/core/fixes/fix';
import { parseVisitor } from '../../../src/core/load/visitors';
import type { Audit } from '../../../src/core/plan/audit';
import { editedSite } from '../../../src/engine/imaging/editedSite';
import { editedAnswers, hostsOf, recordedAnswers } from '../../../src/engine/replay/answers';
import { AnswerBook } from '../../../src/engine/replay/answerBook';
import { proveFixes } from '../../../src/engine/services/proveFixes';
import { auditOf, PAGE } from '../../fixtures/har';

const MEDIA = 'https://media.fernhollow.example/';
/** A host without a name (RFC 3849). */
const SIX = 'https://[2001:db8::7]/';
/** A fast link: a proof is to be quick here, not telling. */
const FAST = parseVisitor('screen=400x860@1,touch,rtt=10,down=50000,up=20000,cpu=1');

/** A page with a script in the head that adds a paragraph, a beacon with the time, and a picture that was not kept. */
function garden(more = ''): Audit {
  const body = `<!doctype html><html><head><meta charset="utf-8"><title>Garden</title><script src="/js/kit.js"></script></head><body><h1>Plant sale</h1><p id="when"></p><script>when.textContent = kit(); new Image().src = '/count.gif?t=' + Date.now();</script><img src="${MEDIA}missing.jpg" alt=""><script src="${SIX}six.js"></script>${more}</body></html>`;
  return auditOf(
    body,
    [
      {
        url: `${PAGE}js/kit.js`,
        body: 'function kit() { return new Date().getUTCFullYear() + " " + Math.random(); }',
        start: 40,
      },
      { url: `${PAGE}count.gif?t=1731405600000`, bytes: 0, status: 204, start: 90 },
      { url: `${MEDIA}missing.jpg`, bytes: 4000, start: 90 },
      { url: `${SIX}six.js`, body: 'var six = 6;', start: 95 },
    ],
    { hero: { timeMs: 200, size: 9000, tag: 'h1' } },
  );
}

const fixOf = (audit: Audit, kind: string): Fix => {
  const fix = audit.fixes.find((f) => f.kind === kind);
  if (!fix) throw new Error(`no ${kind} among ${audit.fixes.map((f) => f.kind).join()}`);
  return fix;
};

describe('engine/replay', () => {
  describe('answers', () => {
    it('serve what was captured, and leave out what was not', async () => {
      const audit = garden();
      const { answers } = await recordedAnswers(audit, audit.graph, new Map());
      expect(answers.map((a) => a.url)).to.deep.equal([
        PAGE,
        `${PAGE}js/kit.js`,
        `${PAGE}count.gif?t=1731405600000`,
        `${SIX}six.js`,
      ]);
      expect(hostsOf(audit, audit.graph, answers).map((h) => h.origin)).to.include(PAGE.slice(0, -1));
    });

    it('leave out headers and statuses that no server can send', async () => {
      const audit = auditOf('<!doctype html><title>x</title>', [
        { url: `${PAGE}a.js`, body: 'x', headers: { 'bad name': '1', 'x-lines': 'one\ntwo', 'x-good': 'yes' } },
        { url: `${PAGE}b.js`, body: 'x', status: 101 },
      ]);
      const { answers } = await recordedAnswers(audit, audit.graph, new Map());
      expect(answers[1]?.headers.map(([name]) => name)).to.deep.equal(['content-type', 'x-good']);
      expect(answers[2]?.fails).to.equal(true);
    });

    it('are the edited files where fixes edit them, and the same elsewhere', async () => {
      const audit = garden();
      const levels = new Map();
      const base = await recordedAnswers(audit, audit.graph, levels);
      const fixed = await editedAnswers(base, await editedSite([fixOf(audit, 'script-defer')], audit), levels);
      expect(Buffer.from(fixed.answers[0]?.body ?? []).toString()).to.match(/<script[^>]* defer/);
      expect(fixed.answers.slice(1)).to.deep.equal(base.answers.slice(1));
    });

    it('pause where the plain body stood at, compressed or not, and where it ends alike after an edit', async () => {
      const paragraph = (i: number) => `<p>Bed ${i}: ${'ferns and mosses '.repeat(i < 40 ? 1 : 9)}</p>`;
      const html = `<!doctype html><html><head><title>x</title><script src="/kit.js"></script></head><body>${Array.from({ length: 80 }, (_, i) => paragraph(i)).join('')}</body></html>`;
      const share = html.indexOf('Bed 40') / html.length;
      const lens = { pauses: [{ share, ms: 700 }] };
      const kit = { url: `${PAGE}kit.js`, body: 'a;'.repeat(9000), start: 40 };
      for (const headers of [{}, { 'content-encoding': 'gzip' }] as Record<string, string>[]) {
        const audit = auditOf(html, [kit], undefined, PAGE, { lens, headers });
        const levels = new Map();
        const base = await recordedAnswers(audit, audit.graph, levels);
        const sent = ({ body, pauses }: (typeof base.answers)[number]) =>
          Buffer.from(body.subarray(0, Math.round((pauses?.[0]?.share ?? 0) * body.length)));
        const plain = (part: Buffer) =>
          headers['content-encoding']
            ? zlib.gunzipSync(part, { finishFlush: zlib.constants.Z_SYNC_FLUSH }).toString()
            : part.toString();
        const [page] = base.answers;
        expect(page?.pauses?.[0]?.ms).to.equal(700);
        expect(page && plain(sent(page)).length / html.length).to.be.closeTo(share, 0.06);
        const fixed = await editedAnswers(base, await editedSite([fixOf(audit, 'script-defer')], audit), levels);
        expect(fixed.answers[0] && plain(sent(fixed.answers[0]))).to.match(/defer/);
        const faster = await editedAnswers(base, await editedSite([fixOf(audit, 'server-faster')], audit), levels);
        expect(faster.answers[0]?.pauses).to.equal(undefined);
      }
    });

    it('answer for the twin of another scheme, but never with a redirect to what was asked for', () => {
      const book = new AnswerBook();
      const answer = (url: string, status: number, headers: [string, string][] = []) => ({
        method: 'GET',
        url,
        status,
        headers,
        body: new Uint8Array(),
        waitMs: 0,
      });
      book.set([
        answer('http://a.example/pic.jpg', 200),
        answer('http://a.example/', 301, [['location', 'https://a.example/']]),
      ]);
      expect(book.find('GET', 'https://a.example/pic.jpg')?.status).to.equal(200);
      expect(book.find('GET', 'https://a.example/')).to.equal(undefined);
      expect(book.report().unanswered).to.deep.equal(['https://a.example/']);
    });
  });

  describe('a proof in a real browser', function () {
    this.timeout(240_000);

    it('measures both sides, likens noise, lists what was never captured, and goes nowhere else', async () => {
      const audit = garden('<script src="https://elsewhere.example/far.js"></script><script>six.toFixed();</script>');
      const { proof, screens } = await proveFixes(audit, {
        visitor: FAST,
        fixes: [],
        runs: 1,
        link: 'userspace',
      });
      expect(proof.link).to.equal('userspace');
      expect(proof.before.lcpMs.median).to.be.above(20);
      expect(proof.before.bytes.median).to.be.within(300, 20_000);
      expect(proof.unanswered).to.include(`${MEDIA}missing.jpg`);
      expect(proof.unanswered.join()).not.to.contain(SIX);
      // What it brings is there for the page.
      expect(proof.differs.join()).not.to.contain('six');
      expect(proof.unanswered).to.include('https://elsewhere.example/far.js');
      expect(proof.differs.join('\n')).to.match(/count\.gif\?t=\d+ was answered as .*count\.gif\?t=1731405600000/);
      expect(proof.newErrors).to.deep.equal([]);
      // Clock and chance are pinned: two loads look the same.
      expect(proof.firstScreenAlike).to.be.above(0.99);
      expect(screens.before?.length).to.be.above(1000);
    });

    it('shows when a fix breaks the page: the deferred script is missed by one that needs it', async () => {
      const audit = garden();
      const { proof } = await proveFixes(audit, {
        visitor: FAST,
        fixes: [fixOf(audit, 'script-defer')],
        runs: 1,
        link: 'userspace',
        film: true,
      });
      expect(proof.newErrors.join()).to.match(/kit is not defined/);
    });

    it('says that a page which lacks everything shows nothing', async () => {
      const audit = auditOf(
        '<!doctype html><html><head><title>x</title></head><body><script src="/app.js"></script></body></html>',
        [{ url: `${PAGE}app.js`, bytes: 90_000, start: 40 }],
      );
      const fault = await proveFixes(audit, { visitor: FAST, fixes: [], runs: 1, link: 'userspace' }).then(
        () => undefined,
        (error: Error) => error,
      );
      expect(fault?.message).to.match(/shows nothing/);
    });

    it('stops when it is told to', async () => {
      const stop = new AbortController();
      const proving = proveFixes(garden(), {
        visitor: FAST,
        fixes: [],
        link: 'userspace',
        signal: stop.signal,
        onProgress: ({ done }) => done >= 1 && stop.abort(new Error('stopped')),
      });
      expect(
        await proving.then(
          () => 'ended',
          (e: Error) => e.message,
        ),
      ).to.equal('stopped');
    });
  });
});
