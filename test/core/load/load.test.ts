import { expect } from 'chai';
import fc from 'fast-check';
import { EventQueue } from '../../../src/core/load/eventQueue';
import { completeGraph, type FetchNode, type Link, type LoadGraph } from '../../../src/core/load/graph';
import { CONNECTED, HAND_OVER, HANDSHAKE, RESEND, RESPOND } from '../../../src/core/load/browser';
import { Network } from '../../../src/core/load/network';
import { poolsOf } from '../../../src/core/load/pools';
import { middleRange, PERTURBATIONS, quantile } from '../../../src/core/load/range';
import { unit } from '../../../src/core/load/browser';
import { simulate } from '../../../src/core/load/simulate';
import { deviceOf, parseVisitor, VISITORS } from '../../../src/core/load/visitors';
import { InputError } from '../../../src/core/capture/errors';
import { DOCUMENT, fetchNode, graphOf, LINK, ms, ORIGIN, script, style } from '../../fixtures/graph';

describe('core/load/eventQueue', () => {
  it('gives events by time, equal times in the order in which they came', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 20 }), { maxLength: 600 }), (times) => {
        const q = new EventQueue();
        times.forEach((t, i) => q.push(t, 1, i));
        const out: [number, number][] = [];
        while (q.length > 0) {
          q.pop();
          out.push([q.time, q.arg]);
        }
        expect(out).to.deep.equal(
          times.map((t, i): [number, number] => [t, i]).sort((a, b) => a[0] - b[0] || a[1] - b[1]),
        );
      }),
    );
  });
});

describe('core/load/network', () => {
  it('reads nothing of a TLS record before all of it is there (RFC 8446, 5.1)', () => {
    const first = (bodyBytes: number, values: Partial<FetchNode> = {}) =>
      ms({ ...graphOf([]), fetches: [{ ...DOCUMENT, bodyBytes, ...values }] }, { ...LINK, downKbps: 1000 }).ttfbMs;
    // 8 kB at 1 Mbit/s take 64 ms more than some bytes.
    expect(first(8500) - first(500)).to.be.within(60, 75);
    // A record is full at 16 kB, and ten segments with those of the handshake bring it at once.
    expect(first(200_000) - first(500)).to.be.within(125, 150);
    expect(first(200_000, { secure: false }) - first(500, { secure: false }), 'without TLS').to.be.below(40);
  });

  it('sends a key for the handshake, which a slow way up takes time for', () => {
    const first = (upKbps: number) => ms({ ...graphOf([]) }, { ...LINK, upKbps }).ttfbMs;
    // 1.8 kB for the handshake, and the headers of the first request.
    expect(first(400) - first(40_000)).to.be.within(36, 46);
  });

  it('needs one round trip for TCP, one for TLS 1.3 and one for the request', () => {
    const of = (values: Partial<FetchNode>) =>
      ms({ ...graphOf([]), fetches: [{ ...DOCUMENT, bodyBytes: 500, ...values }] });
    const { ttfbMs } = of({});
    expect(ttfbMs).to.be.within(350, 364);
    expect(ttfbMs - of({ secure: false }).ttfbMs).to.be.within(99, 112);
  });

  it('looks names up once a host when the recording did', () => {
    expect(ms(graphOf([], { lookups: true })).ttfbMs - ms(graphOf([])).ttfbMs).to.be.closeTo(100, 0.01);
  });

  it('sends ten segments at first and doubles each round trip (RFC 6928)', () => {
    const fast: Link = { ...LINK, downKbps: 1_000_000 };
    const took = (bytes: number) => {
      const r = simulate(
        graphOf([
          fetchNode(1, {
            bodyBytes: bytes,
            serverMs: 0,
            protocol: 'h1',
            origin: 'https://media.example',
            discovery: { by: 'scanner', offset: 10 },
          }),
        ]),
        fast,
      );
      const t = r.fetches[1];
      return Math.round(((t?.endMs ?? 0) - (t?.firstByteMs ?? 0)) / 100);
    };
    expect(took(12_000)).to.equal(0);
    expect(took(30_000)).to.equal(1);
    expect(took(80_000)).to.equal(2);
    expect(took(180_000)).to.equal(3);
  });

  it('shares the bottleneck: bytes take at least their time on the wire', () => {
    const many = Array.from({ length: 12 }, (_, i) => fetchNode(i + 1, { bodyBytes: 50_000 }));
    const m = ms(graphOf(many));
    expect(m.loadMs).to.be.above(350 + (12 * 50_000 * 8) / 8000);
    expect(m.loadMs).to.be.below(350 + ((12 * 50_000 * 8) / 8000) * 1.25 + 500);
  });

  it('opens six connections to an HTTP/1.1 host and queues the rest', () => {
    const many = Array.from({ length: 12 }, (_, i) =>
      fetchNode(i + 1, { protocol: 'h1', origin: 'https://media.example', bodyBytes: 100, priority: 2 }),
    );
    const sent = simulate(graphOf(many), LINK)
      .fetches.slice(1)
      .map((f) => f.sentMs);
    const first = Math.min(...sent);
    // The seventh waits for an answer, which takes a round trip at least.
    expect(sent.filter((s) => s - first < LINK.rttMs)).to.have.length(6);
  });

  it('delivers every byte once, also when a full queue drops packets', () => {
    const slow: Link = { rttMs: 300, downKbps: 600, upKbps: 300, cpuFactor: 1 };
    const fetches = Array.from({ length: 14 }, (_, i) =>
      fetchNode(i, { protocol: i % 2 ? 'h1' : 'h2', origin: `https://${i % 5}.example`, bodyBytes: 40_000 }),
    );
    const done = new Map<number, number>();
    let bytes = 0;
    const events = new EventQueue();
    const { pools, poolOf } = poolsOf(graphOf([], { fetches }));
    const network = new Network(
      fetches,
      pools,
      poolOf,
      slow,
      false,
      events,
      {
        onSent: () => undefined,
        onFirstByte: () => undefined,
        onBytes: (_id, n) => {
          bytes += n;
        },
        onDone: (id) => done.set(id, (done.get(id) ?? 0) + 1),
      },
      3,
      () => 1,
    );
    fetches.forEach((f) => network.request(f.id, 0));
    let losses = 0;
    for (network.advance(events); events.length > 0; network.advance(events)) {
      events.pop();
      if (events.kind === CONNECTED) network.connected(events.arg, events.time);
      else if (events.kind === RESPOND) network.respond(events.arg, events.time);
      else if (events.kind === HANDSHAKE) network.handshake(events.arg, events.time);
      else if (events.kind === HAND_OVER) network.handOverSoon(events.arg, events.time);
      else if (events.kind === RESEND) {
        losses++;
        network.resend(events.arg, events.time);
      }
    }
    expect(losses).to.be.above(0);
    expect([...done.values()]).to.deep.equal(fetches.map(() => 1));
    expect(bytes).to.equal(40_200);
  });

  it('does not let a handshake that comes later hold back packets that are there now', () => {
    const css = fetchNode(1, { kind: 'style', priority: 4, bodyBytes: 3000, serverMs: 0 });
    const far = Array.from({ length: 6 }, (_, i) =>
      fetchNode(i + 2, { origin: `https://${i}.far.example`, bodyBytes: 100, setupMs: 400, priority: 2 }),
    );
    const alone = simulate(graphOf([css], { styles: [style(1)] }), LINK).fetches[1]?.endMs ?? 0;
    expect(simulate(graphOf([css, ...far], { styles: [style(1)] }), LINK).fetches[1]?.endMs).to.be.closeTo(alone, 10);
  });

  it('connects ahead of need when asked to', () => {
    const far = fetchNode(1, {
      origin: 'https://far.example',
      kind: 'style',
      priority: 4,
      discovery: { by: 'style', sheet: 2, drawn: false, offset: 0 },
    });
    const sheet = fetchNode(2, { kind: 'style', priority: 4, serverMs: 400 });
    const base = graphOf([far, sheet], { styles: [style(2)] });
    const hinted = { ...base, preconnects: [{ origin: 'https://far.example', offset: 100 }] };
    expect(ms(base).fcpMs - ms(hinted).fcpMs).to.be.within(150, 260);
  });
});

describe('core/load/simulate', () => {
  const hero = fetchNode(1, { bodyBytes: 40_000, inViewport: true });
  const withHero = (f: FetchNode, more: FetchNode[] = [], values: Partial<LoadGraph> = {}) =>
    graphOf([f, ...more], { hero: { kind: 'image', fetch: 1, offset: 3000, builtBy: -1, font: -1 }, ...values });

  it('is the same every time', () => {
    const g = withHero(hero, [fetchNode(2), fetchNode(3, { kind: 'style', priority: 4 })], { styles: [style(3)] });
    expect(ms(g)).to.deep.equal(ms(structuredClone(g)));
    expect(simulate(g, LINK, PERTURBATIONS[3]).milestones).to.deep.equal(
      simulate(structuredClone(g), LINK, PERTURBATIONS[3]).milestones,
    );
  });

  it('paints after head styles and scripts, not after other media', () => {
    const sheet = fetchNode(2, { kind: 'style', priority: 4, serverMs: 700 });
    const none = ms(withHero(hero, [sheet])).fcpMs;
    expect(ms(withHero(hero, [sheet], { styles: [style(2)] })).fcpMs - none).to.be.above(400);
    expect(ms(withHero(hero, [sheet], { styles: [style(2, { blocking: false })] })).fcpMs).to.equal(none);
    const js = fetchNode(2, { kind: 'script', priority: 3, serverMs: 700 });
    const sync = ms(withHero(hero, [js], { scripts: [script(0, 2)] }));
    const defer = ms(withHero(hero, [js], { scripts: [script(0, 2, { mode: 'defer' })] }));
    expect(sync.fcpMs - defer.fcpMs).to.be.above(400);
    expect(defer.dclMs).to.be.above(defer.fcpMs);
  });

  it('runs a script after the stylesheets before it', () => {
    const g = graphOf(
      [
        fetchNode(1, { kind: 'style', priority: 4, serverMs: 900 }),
        fetchNode(2, { kind: 'script', priority: 3, serverMs: 10 }),
      ],
      { styles: [style(1)], scripts: [script(0, 2)] },
    );
    const r = simulate(g, LINK);
    expect(r.scripts[0]?.startMs).to.be.at.least(r.fetches[1]?.endMs ?? Infinity);
    expect(r.path.map((s) => s.why)).to.include('had to wait for a stylesheet before it');
  });

  it('waits for imported stylesheets too', () => {
    const g = graphOf(
      [
        fetchNode(1, { kind: 'style', priority: 4 }),
        fetchNode(2, {
          kind: 'style',
          priority: 4,
          serverMs: 600,
          discovery: { by: 'style', sheet: 1, drawn: false, offset: 0 },
        }),
      ],
      { styles: [style(1)] },
    );
    const r = simulate(g, LINK);
    expect(r.fetches[2]?.foundMs).to.be.at.least(r.fetches[1]?.endMs ?? Infinity);
    expect(r.milestones.fcpMs).to.be.above(r.fetches[2]?.endMs ?? Infinity);
  });

  it('finds what the scanner sees while the parser waits for a script', () => {
    const js = fetchNode(2, { kind: 'script', priority: 3, serverMs: 1500 });
    const r = simulate(withHero({ ...hero, priority: 2 }, [js], { scripts: [script(0, 2)] }), LINK);
    expect(r.fetches[1]?.foundMs).to.be.below(500);
    expect(r.milestones.lcpMs).to.be.above(r.fetches[2]?.endMs ?? 0);
  });

  it('asks for lazy and script-driven heroes late', () => {
    const eager = ms(withHero(hero)).lcpMs;
    const lazy = ms(withHero({ ...hero, discovery: { by: 'layout', offset: 3000 } })).lcpMs;
    const js = fetchNode(2, { kind: 'script', priority: 2, serverMs: 300 });
    const byScript = ms(
      withHero({ ...hero, discovery: { by: 'script', script: 0, delayMs: 0 } }, [js], {
        scripts: [script(0, 2, { offset: 15_000, inHead: false })],
      }),
    ).lcpMs;
    const atLoad = ms(
      withHero({ ...hero, discovery: { by: 'event', event: 'load', delayMs: 0 } }, [js], {
        scripts: [script(0, 2, { offset: 15_000, inHead: false })],
      }),
    ).lcpMs;
    // A frame of grace: pictures are shown with frames.
    expect(lazy).to.be.at.least(eager);
    expect(byScript).to.be.above(lazy);
    expect(atLoad).to.be.at.least(byScript);
  });

  it('keeps text of a hero waiting for its font, three seconds at most', () => {
    const font = fetchNode(1, {
      kind: 'font',
      priority: 4,
      serverMs: 900,
      discovery: { by: 'style', sheet: -1, drawn: true, offset: 100 },
    });
    const wait = (serverMs: number) =>
      ms(graphOf([{ ...font, serverMs }], { hero: { kind: 'text', fetch: -1, offset: 3000, builtBy: -1, font: 1 } }));
    expect(wait(900).lcpMs - wait(900).fcpMs).to.be.above(800);
    expect(wait(9000).lcpMs - wait(9000).fcpMs).to.be.within(2900, 3200);
  });

  it('comes to an end when text of a hero is built long after its font was asked for', () => {
    const font = fetchNode(1, {
      kind: 'font',
      priority: 4,
      serverMs: 9000,
      discovery: { by: 'style', sheet: -1, drawn: true, offset: 100 },
    });
    const picture = fetchNode(2, { serverMs: 4500, inViewport: true });
    const builder = fetchNode(3, { kind: 'script', serverMs: 6000 });
    const late = graphOf([font, picture, builder], {
      hero: { kind: 'text', fetch: -1, offset: 3000, builtBy: 0, font: 1 },
      scripts: [script(0, 3, { mode: 'async' })],
    });
    expect(ms(late).lcpMs).to.be.within(6000, 9000);
  });

  it('spends nothing on what a browser refuses', () => {
    const m = ms(
      withHero(hero, [fetchNode(2, { kind: 'script', refused: true, bodyBytes: 0 })], {
        scripts: [script(0, 2, { runMs: 0 })],
      }),
    );
    expect(m.requests).to.equal(2);
    expect(m.bytes).to.equal(10_200 + 40_200);
  });

  it('never fires load before what holds it, and never forgets a fetch', () => {
    const kinds = ['scanner', 'parser', 'layout', 'script', 'event', 'style'] as const;
    const discovery = fc
      .constantFrom(...kinds)
      .map((by): FetchNode['discovery'] =>
        by === 'script'
          ? { by, script: 0, delayMs: 5 }
          : by === 'event'
            ? { by, event: 'load', delayMs: 10 }
            : by === 'style'
              ? { by, sheet: 1, drawn: true, offset: 2600 }
              : { by, offset: 3000 },
      );
    const load = fc.record({
      bodyBytes: fc.integer({ min: 0, max: 200_000 }),
      serverMs: fc.integer({ min: 0, max: 500 }),
      protocol: fc.constantFrom('h1' as const, 'h2' as const),
      priority: fc.constantFrom(0 as const, 1 as const, 2 as const, 3 as const, 4 as const),
      discovery,
    });
    const link = fc.record({
      rttMs: fc.integer({ min: 0, max: 400 }),
      downKbps: fc.integer({ min: 300, max: 100_000 }),
      upKbps: fc.integer({ min: 100, max: 20_000 }),
      cpuFactor: fc.integer({ min: 1, max: 8 }),
    });
    fc.assert(
      fc.property(fc.array(load, { minLength: 1, maxLength: 25 }), link, (list, visitor) => {
        const fixed = [fetchNode(1, { kind: 'style', priority: 4 }), fetchNode(2, { kind: 'script', priority: 3 })];
        const fetches = [...fixed, ...list.map((v, i) => fetchNode(i + 3, v))];
        const g = graphOf(fetches, {
          styles: [style(1)],
          scripts: [script(0, 2)],
          hero: { kind: 'image', fetch: 3, offset: 3000, builtBy: -1, font: -1 },
        });
        const r = simulate(g, visitor);
        const m = r.milestones;
        expect(m.ttfbMs).to.be.at.most(m.fcpMs);
        expect(m.fcpMs).to.be.at.most(m.lcpMs);
        expect(m.dclMs).to.be.at.most(m.loadMs);
        expect(m.requests).to.equal(fetches.length + 1);
        const { serverMs, untilFoundMs, transferMs, untilPaintedMs } = r.split;
        expect(serverMs + untilFoundMs + transferMs + untilPaintedMs).to.be.closeTo(m.lcpMs, 0.001);
        for (const part of [serverMs, untilFoundMs, transferMs, untilPaintedMs]) expect(part).to.be.at.least(0);
        for (const t of r.fetches) {
          expect(t.sentMs).to.be.at.least(t.foundMs);
          expect(t.endMs).to.be.at.least(t.firstByteMs);
        }
        for (const s of r.path) expect(s.toMs).to.be.at.least(s.fromMs);
      }),
      { numRuns: 150 },
    );
  });

  it('gets no faster with a longer round trip, slower link or processor (to the frame)', () => {
    fc.assert(
      fc.property(fc.integer({ min: 10, max: 300 }), fc.integer({ min: 500, max: 20_000 }), (rttMs, downKbps) => {
        const g = withHero(
          hero,
          [
            fetchNode(2, { kind: 'style', priority: 4, bodyBytes: 30_000 }),
            fetchNode(3, { kind: 'script', priority: 3 }),
          ],
          { styles: [style(2)], scripts: [script(0, 3)] },
        );
        const base = ms(g, { ...LINK, rttMs, downKbps }).lcpMs;
        expect(ms(g, { ...LINK, rttMs: rttMs * 1.5, downKbps }).lcpMs).to.be.at.least(base - 17);
        expect(ms(g, { ...LINK, rttMs, downKbps: downKbps / 1.5 }).lcpMs).to.be.at.least(base - 17);
        expect(ms(g, { ...LINK, rttMs, downKbps, cpuFactor: 4 }).lcpMs).to.be.at.least(base - 17);
      }),
      { numRuns: 60 },
    );
  });
});

describe('core/load/graph', () => {
  it('completes a graph that an earlier version stored, and leaves one of today alone', () => {
    const now = graphOf([fetchNode(1)]);
    expect(completeGraph(now)).to.equal(now);
    const { byUrgency, shifts, hsts, contentFont, ...old } = now;
    const completed = completeGraph(old as LoadGraph);
    expect(completed).to.deep.include({ shifts, hsts, contentFont, byUrgency: [ORIGIN] });
    expect(byUrgency).to.deep.equal([]);
    expect(simulate(completed, LINK).milestones.lcpMs).to.be.above(0);
  });
});

describe('core/load/range', () => {
  it('takes percentiles by interpolation', () => {
    expect(quantile([1, 2, 3], 0.5)).to.equal(2);
    expect(quantile([], 0.5)).to.equal(0);
    expect(middleRange([10, 0, 5])).to.deep.equal([1, 9]);
  });
  it('draws at least 24 times, seeded', () => {
    expect(PERTURBATIONS.length).to.be.at.least(24);
    expect(unit(3, 4)).to.equal(unit(3, 4));
    fc.assert(fc.property(fc.integer(), fc.nat(), (s, i) => void expect(unit(s, i)).to.be.within(0, 0.9999999999)));
  });
});

describe('core/load/visitors', () => {
  it('reads names, specs and changed names', () => {
    expect(parseVisitor('phone-busy')).to.equal(VISITORS[0]);
    expect(parseVisitor('Desktop')).to.equal(VISITORS[2]);
    expect(parseVisitor('screen=400x860@2.5,touch,rtt=150,down=2000,up=800,cpu=4')).to.include({
      screenWidth: 400,
      density: 2.5,
      touch: true,
      rttMs: 150,
      downKbps: 2000,
      upKbps: 800,
      cpuFactor: 4,
    });
    expect(parseVisitor('phone-busy,rtt=300')).to.include({ rttMs: 300, downKbps: 2000 });
    expect(deviceOf(parseVisitor('desktop'))).to.equal('desktop');
  });
  for (const bad of ['tablet', 'screen=big,rtt=1', 'rtt=-4', 'down=0', 'speed=3']) {
    it(`says what is wrong with ${bad}`, () => expect(() => parseVisitor(bad)).to.throw(InputError));
  }
});
