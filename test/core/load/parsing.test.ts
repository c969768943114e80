import { expect } from 'chai';
import fc from 'fast-check';
import type { FetchNode, ScriptNode } from '../../../src/core/load/graph';
import { fetchNode, graphOf, LINK, replay, script, style } from '../../fixtures/graph';

const js = (id: number, serverMs: number, values: Partial<FetchNode> = {}) =>
  fetchNode(id, { kind: 'script', priority: 3, bodyBytes: 3000, serverMs, ...values });
const css = (id: number, serverMs: number, values: Partial<FetchNode> = {}) =>
  fetchNode(id, { kind: 'style', priority: 4, bodyBytes: 3000, serverMs, ...values });

describe('core/load: scanner and parser (HTML, 13.2)', () => {
  it('finds what stands later in a document later, as its bytes come', () => {
    const at = (offset: number, secure = false) => {
      const g = graphOf([fetchNode(1, { discovery: { by: 'scanner', offset } })]);
      const fetches = g.fetches.map((f) => ({ ...f, secure }));
      return replay({ ...g, fetches }, { ...LINK, downKbps: 400 }).fetches[1]?.foundMs ?? 0;
    };
    // 18,000 characters further are 9,000 bytes on the way, at 400 kbit/s 180 ms.
    expect(at(19_500) - at(1500)).to.be.within(100, 220);
    expect(at(19_500, true) - at(1500, true), 'in one TLS record all comes at once').to.equal(0);
  });

  it('finds by the scanner behind a waiting script, by the parser only once that has run', () => {
    const g = graphOf(
      [
        js(1, 900),
        fetchNode(2, { priority: 3, discovery: { by: 'scanner', offset: 6000 } }),
        fetchNode(3, { priority: 3, discovery: { by: 'parser', offset: 6000 } }),
      ],
      { scripts: [script(0, 1)] },
    );
    const r = replay(g);
    const ran = r.scripts[0]?.endMs ?? 0;
    expect(r.fetches[2]?.foundMs).to.be.below(ran - 500);
    expect(r.fetches[3]?.foundMs).to.be.at.least(ran);
  });

  it('sends requests of what the scanner found before the parser begins', () => {
    const g = graphOf([js(1, 50)], { scripts: [script(0, -1, { mode: 'inline', offset: 200 })] });
    const waits = (cpuFactor: number) => {
      const r = replay(g, { ...LINK, cpuFactor });
      return (r.scripts[0]?.startMs ?? 0) - (r.fetches[1]?.foundMs ?? 0);
    };
    expect(waits(1)).to.be.within(20, 40);
    expect(waits(4)).to.be.within(50, 90);
  });

  it('shows the beginning of a very long document where nothing holds it back, and all that is parsed by then where something does', () => {
    const size = { bodyBytes: 70_000, decodedBytes: 1_280_000 };
    const shown = (sheet: { serverMs: number } | undefined, cpuFactor: number) => {
      const g = graphOf(sheet ? [css(1, sheet.serverMs)] : [], { styles: sheet ? [style(1)] : [] });
      const long = {
        ...g,
        layoutMs: 1800,
        fetches: g.fetches.map((f) => (f.id === 0 ? { ...f, ...size } : f)),
        document: { ...g.document, decodedBytes: size.decodedBytes, parseMs: 110 },
      };
      const { milestones, fetches } = replay(long, { ...LINK, downKbps: 40_000, cpuFactor });
      return milestones.fcpMs - (fetches[0]?.firstByteMs ?? 0);
    };
    // A turn of 10 ms and the layout of what that parsed.
    expect(shown(undefined, 1)).to.be.within(150, 400);
    expect(shown(undefined, 4)).to.be.within(300, 700);
    // The layout of nearly all of it.
    expect(shown({ serverMs: 900 }, 1)).to.be.above(2500);
  });

  it('stops at a classic script of the body, which what is above it need not wait for', () => {
    const g = graphOf([js(1, 900)], { scripts: [script(0, 1, { offset: 12_000, inHead: false })] });
    const r = replay(g);
    expect(r.milestones.fcpMs).to.be.below(r.scripts[0]?.startMs ?? 0);
    expect(r.milestones.dclMs).to.be.above(r.scripts[0]?.endMs ?? Infinity);
  });
});

describe('core/load: when scripts run (HTML, 4.12.1)', () => {
  const modes = (first: Partial<ScriptNode>, second: Partial<ScriptNode>) =>
    replay(
      graphOf([js(1, 800, { priority: 1 }), js(2, 50, { priority: 1 })], {
        scripts: [script(0, 1, { offset: 900, ...first }), script(1, 2, { offset: 1000, ...second })],
      }),
    );

  it('deferred ones in their order, after parsing and before DOMContentLoaded', () => {
    const r = modes({ mode: 'defer' }, { mode: 'defer' });
    expect(r.scripts[1]?.startMs).to.be.at.least(r.scripts[0]?.endMs ?? Infinity);
    expect(r.milestones.dclMs).to.be.at.least(r.scripts[1]?.endMs ?? Infinity);
  });

  it('async ones as they come, without holding DOMContentLoaded back; load waits for both', () => {
    const r = modes({ mode: 'async' }, { mode: 'async' });
    expect(r.scripts[1]?.endMs).to.be.below(r.scripts[0]?.startMs ?? 0);
    expect(r.milestones.dclMs).to.be.below(r.scripts[0]?.startMs ?? 0);
    expect(r.milestones.loadMs).to.be.at.least(r.scripts[0]?.endMs ?? Infinity);
  });

  it('classic ones in place, the second after the first however early it came', () => {
    const r = modes({}, {});
    expect(r.fetches[2]?.endMs).to.be.below(r.fetches[1]?.endMs ?? 0);
    expect(r.scripts[1]?.startMs).to.be.at.least(r.scripts[0]?.endMs ?? Infinity);
  });

  it('an async one that cuts in makes the parser wait for its run', () => {
    const cut = (runMs: number) => {
      const far = js(1, 0, {
        priority: 1,
        origin: 'https://far.example',
        discovery: { by: 'scanner', offset: 300 },
      });
      const g = graphOf([far], { scripts: [script(0, 1, { mode: 'async', runMs })] });
      const size = { bodyBytes: 150_000, decodedBytes: 300_000 };
      const long = {
        ...g,
        fetches: g.fetches.map((f) => (f.id === 0 ? { ...f, ...size } : f)),
        document: { ...g.document, decodedBytes: size.decodedBytes, parseMs: 300 },
      };
      const r = replay(long, { ...LINK, downKbps: 600 });
      expect(r.scripts[0]?.startMs).to.be.below(r.milestones.dclMs);
      return r.milestones.dclMs;
    };
    expect(cut(2000) - cut(0)).to.be.above(1000);
  });

  it('an inline one waits for stylesheets before it, not for those behind', () => {
    const inline = (sheetOffset: number) => {
      const g = graphOf([css(1, 900)], {
        styles: [style(1, { offset: sheetOffset })],
        scripts: [script(0, -1, { mode: 'inline', offset: 1200 })],
      });
      const r = replay(g);
      return (r.scripts[0]?.startMs ?? 0) - (r.fetches[1]?.endMs ?? 0);
    };
    expect(inline(800)).to.be.at.least(0);
    expect(inline(1400)).to.be.below(-500);
  });

  it('none waits for a stylesheet of other media', () => {
    const g = graphOf([css(1, 900)], {
      styles: [style(1, { blocking: false })],
      scripts: [script(0, -1, { mode: 'inline' })],
    });
    const r = replay(g);
    expect(r.scripts[0]?.startMs).to.be.below(r.fetches[1]?.endMs ?? 0);
  });

  it('what a script asks for is found when it has run, and later by as much as it waits', () => {
    const g = (delayMs: number) =>
      graphOf([js(1, 100), fetchNode(2, { discovery: { by: 'script', script: 0, delayMs } })], {
        scripts: [script(0, 1)],
      });
    const found = (delayMs: number) => {
      const r = replay(g(delayMs));
      return (r.fetches[2]?.foundMs ?? 0) - (r.scripts[0]?.endMs ?? 0);
    };
    expect(found(0)).to.be.closeTo(0, 1e-6);
    expect(found(70)).to.be.closeTo(70, 1e-6);
  });

  it('what waits for DOMContentLoaded or load is found then', () => {
    const at = (event: 'dcl' | 'load') => {
      const r = replay(
        graphOf([fetchNode(1, { serverMs: 700 }), fetchNode(2, { discovery: { by: 'event', event, delayMs: 3 } })]),
      );
      return (r.fetches[2]?.foundMs ?? 0) - (event === 'dcl' ? r.milestones.dclMs : 0);
    };
    expect(at('dcl')).to.be.closeTo(3, 1e-6);
    const holds = graphOf([
      fetchNode(1, { serverMs: 700 }),
      fetchNode(2, { holdsLoad: false, discovery: { by: 'event', event: 'load', delayMs: 3 } }),
    ]);
    const r = replay(holds);
    expect((r.fetches[2]?.foundMs ?? 0) - r.milestones.loadMs).to.be.closeTo(3, 1e-6);
  });
});

describe('core/load: what stylesheets hold back', () => {
  it('finds a chain of imports link by link, and paints after the last', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(300), { minLength: 1, maxLength: 6 }), (waits) => {
        const chain = waits.map((serverMs, i) =>
          css(i + 1, serverMs, i === 0 ? {} : { discovery: { by: 'style', sheet: i, drawn: false, offset: 0 } }),
        );
        const r = replay(graphOf(chain, { styles: [style(1)] }));
        for (let i = 2; i <= waits.length; i++)
          expect(r.fetches[i]?.foundMs).to.be.at.least(r.fetches[i - 1]?.endMs ?? Infinity);
        expect(r.milestones.fcpMs).to.be.above(r.fetches[waits.length]?.endMs ?? Infinity);
        // Each link costs a round trip and its server's wait at least.
        const least = waits.reduce((sum, w) => sum + w + LINK.rttMs, 0);
        expect(r.milestones.fcpMs - r.milestones.ttfbMs).to.be.above(least);
      }),
      { numRuns: 40 },
    );
  });

  it('paints after a sheet that a redirect leads to', () => {
    const g = graphOf(
      [
        css(1, 100, { redirectTo: 2, bodyBytes: 0 }),
        css(2, 700, { discovery: { by: 'fetch', fetch: 1, delayMs: 0 }, origin: 'https://far.example' }),
      ],
      { styles: [style(1)] },
    );
    const r = replay(g);
    expect(r.milestones.fcpMs).to.be.above(r.fetches[2]?.endMs ?? Infinity);
  });

  it('asks for a font or background when its sheet is in and what it draws is reached', () => {
    const g = graphOf(
      [css(1, 500), fetchNode(2, { kind: 'font', discovery: { by: 'style', sheet: 1, drawn: true, offset: 2500 } })],
      { styles: [style(1)] },
    );
    const r = replay(g);
    expect(r.fetches[2]?.foundMs).to.be.at.least(r.fetches[1]?.endMs ?? Infinity);
    expect(r.fetches[2]?.foundMs).to.be.below(r.milestones.fcpMs + 1);
  });

  it('lets what stands above a stylesheet of the body be seen before it, and nothing below (HTML, 2.4.10)', () => {
    const at = (contentOffset: number, heroOffset: number) => {
      const g = graphOf([css(1, 900)], {
        styles: [style(1, { offset: 9000, inHead: false })],
        hero: { kind: 'text', fetch: -1, offset: heroOffset, builtBy: -1, font: -1 },
      });
      return replay({ ...g, document: { ...g.document, contentOffset } });
    };
    const above = at(2500, 3000);
    expect(above.milestones.lcpMs).to.be.below(above.fetches[1]?.endMs ?? 0);
    const hero = at(2500, 12_000);
    expect(hero.milestones.fcpMs).to.be.below(hero.fetches[1]?.endMs ?? 0);
    expect(hero.milestones.lcpMs).to.be.above(hero.fetches[1]?.endMs ?? Infinity);
    expect(hero.path.map((s) => s.id)).to.include(1);
    expect(hero.path.at(-1)?.why).to.equal('drawn once its element was there');
    const all = at(12_000, 12_000);
    expect(all.milestones.fcpMs).to.be.above(all.fetches[1]?.endMs ?? Infinity);
    expect(all.fcpPath.map((s) => s.id)).to.include(1);
  });
});

describe('core/load/replay: what the first paint waited for on a page that a script builds', () => {
  const picture = fetchNode(1, { serverMs: 200, inViewport: true });
  const names = (afterEvent: boolean, hero: number) => {
    const maker = afterEvent
      ? [
          script(0, 2, { mode: 'defer' }),
          script(1, -1, {
            mode: 'callback',
            of: 0,
            after: { by: 'event' as const, event: 'load' as const, delayMs: 0 },
          }),
        ]
      : [script(0, 2, { mode: 'defer' })];
    const g = graphOf([picture, js(2, 1500)], {
      scripts: maker,
      hero: {
        kind: hero < 0 ? 'text' : 'image',
        fetch: hero,
        offset: 3000,
        builtBy: hero < 0 ? maker.length - 1 : -1,
        font: -1,
      },
    });
    return replay({ ...g, document: { ...g.document, contentBuiltBy: maker.length - 1 } }).fcpPath.map(
      (s) => `${s.kind} ${s.id}`,
    );
  };

  it('that script', () => {
    expect(names(false, -1)).to.deep.equal(['fetch 0', 'fetch 2', 'script 0', 'paint -1']);
  });

  it('what set it off, where it builds later', () => {
    expect(names(true, -1)).to.deep.equal(['fetch 0', 'fetch 2', 'script 1', 'paint -1']);
  });

  it('the hero, where the markup names that and it came first', () => {
    expect(names(false, 1)).to.deep.equal(['fetch 0', 'fetch 1', 'paint -1']);
  });
});

describe('core/load/replay: what brought the hero last', () => {
  const picture = fetchNode(1, { serverMs: 0, inViewport: true });
  const names = (g: Parameters<typeof replay>[0]) => replay(g).path.map((s) => `${s.kind} ${s.id}`);
  const hero = { kind: 'image' as const, fetch: 1, offset: 9000, builtBy: -1, font: -1 };

  it('a script that the parser stood at in front of it', () => {
    const scripts = [script(0, 2, { offset: 8000, inHead: false })];
    expect(names(graphOf([picture, js(2, 1500)], { hero, scripts }))).to.deep.equal([
      'fetch 0',
      'fetch 2',
      'script 0',
      'paint -1',
    ]);
  });

  it('the script that builds it, though its file was there long before', () => {
    const g = graphOf([picture, js(2, 1500, { priority: 1 })], {
      hero: { ...hero, builtBy: 0 },
      scripts: [script(0, 2, { mode: 'async' })],
    });
    expect(names(g)).to.deep.equal(['fetch 0', 'fetch 2', 'script 0', 'paint -1']);
  });

  it('what held back the event that gives its element the file', () => {
    const slow = fetchNode(2, { serverMs: 2000 });
    const late = [script(0, 3, { mode: 'defer' })];
    const at = (afterEvent: 'dcl' | 'load') =>
      names(graphOf([picture, slow, js(3, 800)], { hero: { ...hero, afterEvent }, scripts: late }));
    expect(at('load')).to.deep.equal(['fetch 0', 'fetch 2', 'paint -1']);
    expect(at('dcl')).to.deep.equal(['fetch 0', 'fetch 3', 'script 0', 'paint -1']);
  });
});
