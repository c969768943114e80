import { expect } from 'chai';
import { BROWSER } from '../../../src/core/load/browser';
import type { FetchNode, HeroNode, LoadGraph } from '../../../src/core/load/graph';
import { simulate } from '../../../src/core/load/simulate';
import { fetchNode, graphOf, LINK, ms, replay, script, style } from '../../fixtures/graph';

const picture = (values: Partial<HeroNode> = {}): HeroNode => ({
  kind: 'image',
  fetch: 1,
  offset: 3000,
  builtBy: -1,
  font: -1,
  ...values,
});
const text = (values: Partial<HeroNode> = {}): HeroNode => ({ ...picture(values), kind: 'text', fetch: -1 });
const hero = (values: Partial<FetchNode> = {}) => fetchNode(1, { inViewport: true, priority: 2, ...values });
const js = (id: number, serverMs: number) => fetchNode(id, { kind: 'script', priority: 3, bodyBytes: 3000, serverMs });

describe('core/load: when the hero counts as painted', () => {
  it('not before its file is there', () => {
    const r = replay(graphOf([hero({ serverMs: 1500 })], { hero: picture() }));
    expect(r.milestones.fcpMs).to.be.below(r.fetches[1]?.endMs ?? 0);
    expect(r.milestones.lcpMs).to.be.within(
      r.fetches[1]?.endMs ?? Infinity,
      (r.fetches[1]?.endMs ?? 0) + BROWSER.presentMs + BROWSER.presentFixedMs + 45,
    );
  });

  it('not before its element is parsed, however early its file came', () => {
    const g = graphOf([hero({ serverMs: 0 }), js(2, 1500)], {
      hero: picture({ offset: 9000 }),
      scripts: [script(0, 2, { offset: 8000, inHead: false })],
    });
    const r = replay(g);
    expect(r.fetches[1]?.endMs).to.be.below(r.scripts[0]?.startMs ?? 0);
    expect(r.milestones.lcpMs).to.be.above(r.scripts[0]?.endMs ?? Infinity);
  });

  it('not while stylesheets of the head are pending', () => {
    const g = graphOf([hero({ serverMs: 0 }), fetchNode(2, { kind: 'style', priority: 4, serverMs: 1500 })], {
      hero: picture(),
      styles: [style(2)],
    });
    const r = replay(g);
    expect(r.milestones.lcpMs).to.be.above(r.fetches[2]?.endMs ?? Infinity);
    expect(r.milestones.fcpMs).to.equal(r.milestones.lcpMs);
  });

  it('not before the script that builds it has run', () => {
    const built = (builtBy: number) =>
      replay(
        graphOf([hero({ serverMs: 0 }), js(2, 1200)], {
          hero: picture({ builtBy }),
          scripts: [script(0, 2, { mode: 'async' })],
        }),
      );
    expect(built(0).milestones.lcpMs).to.be.above(built(0).scripts[0]?.endMs ?? Infinity);
    expect(built(-1).milestones.lcpMs).to.be.below(built(-1).scripts[0]?.startMs ?? 0);
  });

  it('not before the event that gives its element the file, even one that was preloaded', () => {
    const slow = fetchNode(2, { serverMs: 1800 });
    const after = (afterEvent?: 'dcl' | 'load') =>
      ms(graphOf([hero({ serverMs: 0 }), slow], { hero: picture({ afterEvent }) }));
    expect(after('load').lcpMs).to.be.above(after('load').loadMs);
    expect(after('dcl').lcpMs).to.be.within(after('dcl').dclMs, after('load').loadMs);
    expect(after().lcpMs).to.be.at.most(after('dcl').lcpMs);
  });

  it('later the larger it is, by what drawing takes', () => {
    const drawn = (pixels: number) => ms(graphOf([hero({ pixels })], { hero: picture() })).lcpMs;
    expect(drawn(10e6) - drawn(0)).to.be.within(
      10 * BROWSER.drawFixedMsPerMillion - 17,
      10 * (BROWSER.drawFixedMsPerMillion + BROWSER.drawMsPerMillion) + 17,
    );
  });

  it('comes no earlier than first paint, which text that a font hides does not make', () => {
    const font = fetchNode(1, {
      kind: 'font',
      priority: 4,
      serverMs: 1000,
      discovery: { by: 'style', sheet: -1, drawn: true, offset: 100 },
    });
    const seen = (contentFont: number, more: FetchNode[] = []): LoadGraph =>
      graphOf([font, ...more], { contentFont, hero: text({ font: 1 }) });
    const hidden = ms(seen(1));
    expect(hidden.fcpMs).to.equal(hidden.lcpMs);
    expect(ms(seen(-1)).fcpMs).to.be.below(hidden.fcpMs - 500);
    // A picture of the first screen is something to see, too.
    const logo = fetchNode(2, { inViewport: true, pixels: 40_000, serverMs: 0 });
    expect(ms(seen(1, [logo])).fcpMs).to.be.below(hidden.fcpMs - 500);
  });
});

describe('core/load: text in fonts whose rule leaves it to the browser (font-display: auto)', () => {
  const at = (hidesUntilMs: number | undefined, serverMs: number, sheetMs = 0) => {
    const font = fetchNode(1, {
      kind: 'font',
      priority: 4,
      serverMs,
      hidesUntilMs,
      discovery: { by: 'style', sheet: 2, drawn: true, offset: 100 },
    });
    const sheet = fetchNode(2, { kind: 'style', priority: 4, serverMs: sheetMs });
    return ms(graphOf([font, sheet], { hero: text({ font: 1 }), styles: [style(2)] })).lcpMs;
  };

  it('shows two seconds after the navigation, whenever the font was asked for', () => {
    expect(BROWSER.autoFontMs).to.equal(2000);
    expect(at(2000, 9000)).to.be.within(2000, 2130);
    expect(at(2000, 9000, 500)).to.be.within(2000, 2130);
    expect(at(undefined, 9000)).to.be.above(3400);
  });

  it('does not hide any more when it is built later than that', () => {
    const late = at(2000, 9000, 2500);
    expect(late).to.be.within(2900, 3160);
  });

  it('shows with its font where that is there before', () => {
    expect(at(2000, 300)).to.equal(at(undefined, 300));
  });
});

describe('core/load: text whose font is named by a stylesheet that comes later', () => {
  it('is shown in another font at once, for nobody knows of the font yet', () => {
    const font = fetchNode(1, {
      kind: 'font',
      priority: 4,
      serverMs: 800,
      discovery: { by: 'style', sheet: 2, drawn: true, offset: 100 },
    });
    const at = (blocking: boolean) => {
      const sheet = fetchNode(2, { kind: 'style', priority: blocking ? 4 : 0, serverMs: 900 });
      const g = graphOf([font, sheet], { hero: text({ font: 1 }), contentFont: 1, styles: [style(2, { blocking })] });
      return replay(g);
    };
    const waited = at(true);
    expect(waited.milestones.fcpMs).to.be.above(waited.fetches[1]?.endMs ?? Infinity);
    const shown = at(false);
    expect(shown.milestones.fcpMs).to.be.below(shown.fetches[2]?.endMs ?? 0);
    expect(shown.milestones.lcpMs).to.equal(shown.milestones.fcpMs);
  });

  it('is so although the font itself is on its way already, by a preload', () => {
    const font = fetchNode(1, { kind: 'font', priority: 3, serverMs: 2500 });
    const sheet = fetchNode(2, { kind: 'style', priority: 0, serverMs: 900 });
    const at = (ruleIn: number | undefined) =>
      ms(
        graphOf([{ ...font, ruleIn }, sheet], {
          hero: text({ font: 1 }),
          contentFont: 1,
          styles: [style(2, { blocking: false })],
        }),
      );
    expect(at(undefined).lcpMs).to.be.above(2500);
    expect(at(2).lcpMs).to.be.below(900);
    expect(at(2).fcpMs).to.equal(at(2).lcpMs);
  });
});

describe('core/load: load beside the first frame', () => {
  const font = fetchNode(1, {
    kind: 'font',
    priority: 4,
    serverMs: 800,
    discovery: { by: 'style', sheet: 2, drawn: true, offset: 100 },
  });
  const sheet = (serverMs: number) => fetchNode(2, { kind: 'style', priority: 4, serverMs });

  it('waits for what the frame finds that its last stylesheet lets be drawn', () => {
    const r = replay(graphOf([font, sheet(1500)], { styles: [style(2)] }));
    expect(r.milestones.loadMs).to.be.above(r.fetches[1]?.endMs ?? Infinity);
  });

  it('comes before that frame in some loads: which goes first is chance', () => {
    const g = graphOf([font, sheet(1500)], { styles: [style(2)] });
    const even = { rtt: 1, rate: 1, cpu: 1, server: 1 };
    const loads = Array.from({ length: 40 }, (_, i) => simulate(g, LINK, { ...even, seed: i + 1 }));
    const waited = loads.filter((r) => r.milestones.loadMs > (r.fetches[1]?.endMs ?? Infinity)).length;
    expect(waited).to.be.within(14, 34);
  });

  it('knows of the fonts of a document that is parsed whole: styles are computed before it', () => {
    // Nothing is to be drawn any more that would find it: the text stands at the very end.
    const late = { ...font, discovery: { ...font.discovery, offset: 19_900 } as FetchNode['discovery'] };
    const r = replay(graphOf([late, sheet(0)], { styles: [style(2)] }));
    expect(r.milestones.loadMs).to.be.above(r.fetches[1]?.endMs ?? Infinity);
  });
});

describe('core/load: first paint', () => {
  it('needs something to paint: on a page that a script builds, that script', () => {
    const built = (contentBuiltBy: number) => {
      const g = graphOf([js(1, 900)], { scripts: [script(0, 1, { mode: 'defer' })], hero: text() });
      return replay({ ...g, document: { ...g.document, contentBuiltBy } });
    };
    expect(built(0).milestones.fcpMs).to.be.above(built(0).scripts[0]?.endMs ?? Infinity);
    expect(built(-1).milestones.fcpMs).to.be.below(built(-1).scripts[0]?.startMs ?? 0);
  });

  it('waits for a script with blocking=render, though the parser does not, unless the browser refuses that', () => {
    const paint = (values: object, refused = false) => {
      const g = graphOf([{ ...js(1, 900), refused }], { scripts: [script(0, 1, { mode: 'async', ...values })] });
      return replay(g);
    };
    const [held, free] = [paint({ holdsPaint: true }), paint({})];
    expect(free.milestones.fcpMs).to.be.below(free.scripts[0]?.startMs ?? 0);
    expect(held.milestones.fcpMs).to.be.above(held.scripts[0]?.endMs ?? Infinity);
    expect(held.milestones.dclMs).to.be.closeTo(free.milestones.dclMs, 1);
    expect(held.fcpPath.map((s) => `${s.kind} ${s.id}`)).to.deep.equal(['fetch 0', 'fetch 1', 'script 0', 'paint -1']);
    expect(paint({ holdsPaint: true }, true).milestones.fcpMs).to.be.below(held.milestones.fcpMs - 500);
  });

  it('is the hero on a page that a script builds, where the markup names that and it comes first', () => {
    const built = (serverMs: number) => {
      const g = graphOf([hero({ serverMs }), js(2, 1500)], {
        scripts: [script(0, 2, { mode: 'defer' })],
        hero: picture(),
      });
      return replay({ ...g, document: { ...g.document, contentBuiltBy: 0 } });
    };
    const [first, second] = [built(200), built(3000)];
    expect(first.milestones.fcpMs).to.equal(first.milestones.lcpMs);
    expect(first.milestones.fcpMs).to.be.below(first.scripts[0]?.startMs ?? 0);
    expect(second.milestones.fcpMs).to.be.above(second.scripts[0]?.endMs ?? Infinity);
    expect(second.milestones.lcpMs).to.be.above(second.milestones.fcpMs + 500);
  });

  it('needs the first element that can be painted to have arrived', () => {
    const at = (contentOffset: number) => {
      const g = graphOf([], { hero: text({ offset: 2600 }) });
      // Over TLS such a small document is one record, which is there as a whole.
      const fetches = g.fetches.map((f) => ({ ...f, secure: false }));
      return ms({ ...g, fetches, document: { ...g.document, contentOffset } }, { ...LINK, downKbps: 200 }).fcpMs;
    };
    expect(at(19_000) - at(2500)).to.be.above(200);
  });

  it('is late by main-thread work, as much as the processor is slow', () => {
    const busy = (runMs: number, cpuFactor: number) =>
      ms(graphOf([], { scripts: [script(0, -1, { mode: 'inline', runMs })] }), { ...LINK, cpuFactor }).fcpMs;
    const byClock = 200 * BROWSER.clockFactor;
    expect(busy(200, 1) - busy(0, 1)).to.be.closeTo(byClock, 20);
    expect(busy(200, 4) - busy(0, 4)).to.be.closeTo(4 * byClock, 20);
  });

  it('comes with a frame, and reaches the screen a little later', () => {
    const { fcpMs } = ms(graphOf([]));
    const shown = fcpMs - BROWSER.presentMs - BROWSER.presentFixedMs - BROWSER.firstFrameMs - 10 * BROWSER.clockFactor;
    expect(shown / BROWSER.frameMs).to.be.closeTo(Math.round(shown / BROWSER.frameMs), 0.01);
  });
});

describe('core/load: frames find what only layout knows', () => {
  it('lazy pictures after the first frame, wherever the link is idle before', () => {
    const lazy = fetchNode(1, { holdsLoad: false, discovery: { by: 'layout', offset: 3000 } });
    const sheet = fetchNode(2, { kind: 'style', priority: 4, serverMs: 900 });
    const r = replay(graphOf([lazy, sheet], { styles: [style(2)] }));
    expect(r.fetches[1]?.foundMs).to.be.within(r.fetches[2]?.endMs ?? Infinity, r.milestones.fcpMs);
  });

  it('backgrounds as soon as their frame begins, fonts when the task that laid text out has ended', () => {
    const styled = (id: number, kind: FetchNode['kind']) =>
      fetchNode(id, { kind, priority: 3, discovery: { by: 'style', sheet: -1, drawn: true, offset: 100 } });
    const sheet = fetchNode(3, { kind: 'style', priority: 4, serverMs: 900 });
    const times = (layoutMs: number) =>
      replay(graphOf([styled(1, 'image'), styled(2, 'font'), sheet], { layoutMs, styles: [style(3)] })).fetches;
    const [, picture, font] = times(0);
    const [, pictureLate, fontLate] = times(400);
    expect(font?.foundMs).to.be.above((picture?.foundMs ?? Infinity) + 5);
    expect(pictureLate?.foundMs).to.be.closeTo(picture?.foundMs ?? 0, 0.01);
    expect((fontLate?.foundMs ?? 0) - (font?.foundMs ?? 0)).to.be.closeTo(400 * BROWSER.clockFactor, 0.01);
    // Nor does the picture's request wait for the frame to end.
    expect(pictureLate?.sentMs).to.be.below((pictureLate?.foundMs ?? 0) + 5);
  });

  it('does not make load wait for them, as it does for eager ones', () => {
    const eager = ms(graphOf([fetchNode(1, { serverMs: 2000 })])).loadMs;
    const lazy = fetchNode(1, { serverMs: 2000, holdsLoad: false, discovery: { by: 'layout', offset: 3000 } });
    expect(eager - ms(graphOf([lazy])).loadMs).to.be.above(1500);
  });
});

describe('core/load: long tasks and layout shift', () => {
  it('adds up what tasks take beyond 50 ms (Long Tasks API)', () => {
    const long = (runMs: number) => ms(graphOf([], { scripts: [script(0, -1, { mode: 'inline', runMs })] })).longTaskMs;
    expect(long(250) - long(20)).to.be.closeTo(250 * BROWSER.clockFactor - 50 + BROWSER.runOverheadMs, 0.01);
    expect(long(20)).to.equal(0);
  });

  it('keeps the recorded shift, less what pictures with room no longer cause', () => {
    const shifts = [
      { fetch: 1, score: 0.12 },
      { fetch: 2, score: 0.05 },
    ];
    const cls = (own: typeof shifts, recorded: LoadGraph['recorded']) =>
      ms(graphOf([fetchNode(1), fetchNode(2)], { shifts: own, recorded })).cls;
    expect(cls(shifts, { cls: 0.2, shifted: 0.17 })).to.be.closeTo(0.2, 1e-9);
    expect(cls(shifts.slice(1), { cls: 0.2, shifted: 0.17 })).to.be.closeTo(0.08, 1e-9);
    expect(cls([], { cls: 0.1, shifted: 0.17 })).to.equal(0);
    expect(cls([], {})).to.equal(undefined);
  });
});

describe('core/load: layout of a document', () => {
  const document = (layoutMs: number, script = false) =>
    graphOf(script ? [fetchNode(1, { kind: 'script', priority: 3, serverMs: 600 })] : [], {
      layoutMs,
      document: { fetch: 0, decodedBytes: 20_000, parseMs: 4, bodyOffset: 2000, hintOffset: 100, contentOffset: 2500 },
      // In the middle of the body: what stands before it is shown while the parser waits.
      scripts: script ? [{ id: 0, fetch: 1, mode: 'sync', offset: 6000, inHead: false, runMs: 0 }] : [],
    });

  it('is paid by the first frame for all that is parsed by then', () => {
    expect(ms(document(400)).fcpMs - ms(document(0)).fcpMs).to.be.closeTo(400 * BROWSER.clockFactor, 20);
  });

  it('is paid in part where a script stops the parser, and for the rest later', () => {
    const early = ms(document(400, true)).fcpMs - ms(document(0, true)).fcpMs;
    expect(early).to.be.within(90, 150);
  });
});
