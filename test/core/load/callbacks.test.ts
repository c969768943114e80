import { expect } from 'chai';
import type { Work } from '../../../src/core/capture/capture';
import { buildGraph } from '../../../src/core/load/build';
import type { LoadGraph } from '../../../src/core/load/graph';
import { simulate } from '../../../src/core/load/simulate';
import { chainNames } from '../../../src/core/plan/forecast';
import { capture, har, PAGE, type MadeFacts } from '../../fixtures/har';
import { fetchNode, graphOf, LINK, ms, replay, script } from '../../fixtures/graph';

const DATA = 'https://data.fernhollow.example/beds.json';
const APP = PAGE + 'app.js';
const script1 = (startMs: number, durationMs: number): Work => ({
  kind: 'script',
  url: APP,
  line: 1,
  startMs,
  durationMs,
  phase: 'evaluate',
});
const later = (startMs: number, durationMs: number, url: string | undefined = APP): Work => ({
  kind: 'script',
  url,
  startMs,
  durationMs,
  phase: 'later',
});

/** An application: starts at the load event, asks for data 300 ms away, then draws its hero. */
function application(facts: MadeFacts = {}): LoadGraph {
  return buildGraph(
    capture(
      har(
        [
          { url: PAGE, body: '<!doctype html><body><div id="app"></div><script src="/app.js"></script>', wait: 40 },
          { url: APP, body: 'addEventListener("load",start)', start: 60 },
          {
            url: DATA,
            body: '[]',
            start: 212,
            wait: 300,
            mime: 'application/json',
            lens: { kind: 'data', initiator: { type: 'script', url: APP, line: 1 } },
          },
          { url: PAGE + 'plan.jpg', bytes: 40_000, start: 528, lens: { initiator: { type: 'other' } } },
        ],
        {
          onContentLoad: 200,
          onLoad: 210,
          fcpMs: 260,
          lcpMs: 640,
          hero: {
            timeMs: 640,
            size: 90_000,
            tag: 'img',
            url: PAGE + 'plan.jpg',
            path: 'html:nth-of-type(1)>body:nth-of-type(1)>div:nth-of-type(1)>img:nth-of-type(1)',
          },
          work: [script1(100, 20), later(210, 4), later(518, 9, undefined)],
          ...facts,
        },
      ),
    ).page,
  );
}

describe('core/load: pages whose markup styles hide until a script has run', () => {
  const graph = (css: string, before = '') =>
    buildGraph(
      capture(
        har(
          [
            {
              url: PAGE,
              body: `<!doctype html><head><style>${css}</style><body>${before}<main class="deck"><section><h1>Plant sale</h1></section></main><script src="/app.js"></script>`,
              wait: 40,
            },
            { url: APP, body: 'show()', start: 60 },
          ],
          {
            fcpMs: 260,
            lcpMs: 260,
            hero: {
              timeMs: 260,
              size: 90_000,
              tag: 'h1',
              path: 'html:nth-of-type(1)>body:nth-of-type(1)>main:nth-of-type(1)>section:nth-of-type(1)>h1:nth-of-type(1)',
            },
            work: [script1(100, 120)],
          },
        ),
      ).page,
    );

  it('paint nothing before it, neither the hero nor anything else', () => {
    const g = graph('.deck section:not(.present){display:none}');
    expect(g.document.contentBuiltBy).to.equal(0);
    expect(g.hero.builtBy).to.equal(0);
    const r = replay(g);
    expect(r.milestones.fcpMs).to.be.above(r.scripts[0]?.endMs ?? Infinity);
  });

  it('paint what is not hidden first', () => {
    const g = graph('.deck section{visibility:hidden}', '<p>Loading</p>');
    expect(g.document.contentBuiltBy).to.equal(-1);
    expect(g.hero.builtBy).to.equal(0);
    const r = replay(g);
    expect(r.milestones.fcpMs).to.be.below(r.scripts[0]?.endMs ?? 0);
    expect(r.milestones.lcpMs).to.be.above(r.scripts[0]?.endMs ?? Infinity);
  });

  it('wait for no script where nothing hides them', () => {
    const g = graph('.deck section{opacity:1}');
    expect([g.document.contentBuiltBy, g.hero.builtBy]).to.deep.equal([-1, -1]);
  });
});

describe('core/load: pages that build themselves after load', () => {
  it('names what set off each piece of later work: an event, an answer', () => {
    const g = application();
    const calls = g.scripts.filter((s) => s.mode === 'callback');
    expect(calls.map((s) => s.after)).to.deep.equal([
      { by: 'event', event: 'load', delayMs: 0 },
      { by: 'fetch', fetch: 2, delayMs: 0 },
    ]);
    expect(calls.map((s) => s.runMs)).to.deep.equal([4, 9]);
  });

  it('lets requests, the first text and the hero follow the work that made them', () => {
    const g = application();
    const [atLoad, afterAnswer] = g.scripts.filter((s) => s.mode === 'callback').map((s) => s.id);
    expect(g.fetches[2]?.discovery).to.deep.include({ by: 'script', script: atLoad });
    expect(g.fetches[3]?.discovery).to.deep.include({ by: 'script', script: afterAnswer });
    expect(g.document.contentBuiltBy).to.equal(atLoad);
    expect(g.hero.builtBy).to.equal(afterAnswer);
  });

  it('makes the hero wait for the answer on every link, and says so', () => {
    const g = application();
    const slow = { ...LINK, rttMs: 400 };
    const [near, far] = [simulate(g, LINK), simulate(g, slow)];
    for (const r of [near, far]) {
      expect(r.milestones.fcpMs).to.be.below(r.fetches[2]?.endMs ?? 0);
      expect(r.fetches[3]?.foundMs).to.be.at.least(r.fetches[2]?.endMs ?? Infinity);
      expect(r.milestones.lcpMs).to.be.above(r.fetches[3]?.endMs ?? Infinity);
    }
    // Connection and request of the answer, then the picture: three round trips more, at least.
    expect(far.milestones.lcpMs - near.milestones.lcpMs).to.be.above(3 * 300);
    expect(chainNames(g, near)).to.include.members(['beds.json', 'plan.jpg', 'app.js']);
  });

  it('lets what a timer set off follow what had set the timer, not what had happened last', () => {
    const dom = { ...later(200, 2), phase: 'later' as const };
    const timed = (startMs: number, setMs: number, delayMs: number): Work => ({
      ...later(startMs, 3),
      timer: { setMs, delayMs },
    });
    const g = application({
      onContentLoad: 200,
      onLoad: 240,
      lcpMs: 1200,
      // Set while the script ran for the first time, by a handler of DOMContentLoaded, and by the timer that this had set.
      work: [script1(100, 20), dom, timed(612, 112, 500), timed(902, 201, 700), timed(1105, 903, 200)],
    });
    const calls = g.scripts.filter((s) => s.mode === 'callback');
    expect(calls.map((s) => s.after)).to.deep.equal([
      { by: 'event', event: 'dcl', delayMs: 0 },
      { by: 'script', script: 0, delayMs: 492 },
      { by: 'script', script: calls[0]?.id, delayMs: 699 },
      { by: 'script', script: calls[2]?.id, delayMs: 198 },
    ]);
  });

  it('follows timers back to what is worth a task of its own', () => {
    const tick = (startMs: number, setMs: number, durationMs = 0.1): Work => ({
      ...later(startMs, durationMs),
      timer: { setMs, delayMs: 20 },
    });
    const g = application({
      lcpMs: 700,
      work: [script1(100, 20), tick(131, 110), tick(151, 131), tick(172, 151), tick(192, 172, 40)],
    });
    const [call] = g.scripts.filter((s) => s.mode === 'callback' && s.runMs > 30);
    expect(call?.after).to.deep.equal({ by: 'script', script: 0, delayMs: 70 });
  });

  it('ends with timers that a file says were set by one another, or after they ran', () => {
    const timed = (startMs: number, setMs: number): Work => ({ ...later(startMs, 3), timer: { setMs, delayMs: 5 } });
    const g = application({ lcpMs: 700, work: [script1(100, 20), timed(300, 401), timed(400, 301), timed(500, 501)] });
    expect(g.scripts.filter((s) => s.mode === 'callback')).to.have.length(3);
  });

  it('leaves out what ran before any script of the page: it is the browser’s own', () => {
    const g = application({
      work: [later(55, 3, undefined), script1(100, 20), later(210, 4), later(518, 9, undefined)],
    });
    expect(g.scripts.filter((s) => s.mode === 'callback')).to.have.length(2);
  });
});

describe('core/load: later work of scripts', () => {
  const call = (id: number, runMs: number, after: NonNullable<ReturnType<typeof script>['after']>) =>
    script(id, -1, { mode: 'callback', offset: -1, inHead: false, runMs, after });

  it('keeps the main thread busy when its time comes', () => {
    const quiet = graphOf([fetchNode(1, { kind: 'script' })], { scripts: [script(0, 1)] });
    const busy = { ...quiet, scripts: [...quiet.scripts, call(1, 400, { by: 'script', script: 0, delayMs: 0 })] };
    expect(ms(busy).fcpMs - ms(quiet).fcpMs).to.be.within(300, 500);
  });

  it('does not hold back the load event', () => {
    const one = graphOf([], { scripts: [call(0, 30, { by: 'event', event: 'load', delayMs: 700 })] });
    const { loadMs } = ms(one);
    expect(replay(one).scripts[0]?.startMs).to.be.closeTo(loadMs + 700, 1);
  });
});
