import { expect } from 'chai';
import fc from 'fast-check';
import type { FetchNode } from '../../../src/core/load/graph';
import type { FetchTimes } from '../../../src/core/load/replay';
import { fetchNode, graphOf, LINK, ms, replay, script, style } from '../../fixtures/graph';

/** Most fetches that were out at the same time before a moment. */
function mostAtOnce(times: readonly FetchTimes[], beforeMs: number): number {
  const starts = times.filter((t) => t.sentMs < beforeMs).map((t) => t.sentMs);
  return Math.max(0, ...starts.map((at) => times.filter((t) => t.sentMs <= at && t.endMs > at).length));
}

const slowHead = fetchNode(1, { kind: 'script', priority: 3, serverMs: 1200, bodyBytes: 2000 });
const pictures = (count: number, values: Partial<FetchNode> = {}, from = 2) =>
  Array.from({ length: count }, (_, i) => fetchNode(from + i, { bodyBytes: 4000, serverMs: 20, ...values }));

describe('core/load: what the browser lets out, and when', () => {
  it('has two requests of middle priority out while the head is pending, of a lower one two with all others', () => {
    for (const [priority, atOnce] of [
      [2, 2],
      [1, 1],
    ] as const) {
      const g = graphOf([slowHead, ...pictures(40, { priority })], { scripts: [script(0, 1)] });
      const r = replay(g);
      const ran = r.scripts[0]?.endMs ?? 0;
      const own = r.fetches.slice(2);
      expect(mostAtOnce(own, ran)).to.equal(atOnce);
      expect(own.filter((t) => t.sentMs < ran).length).to.be.within(5 * atOnce, 15 * atOnce);
      const late = own.filter((t) => t.sentMs >= ran).map((t) => t.sentMs);
      expect(Math.max(...late) - Math.min(...late)).to.be.below(40);
    }
  });

  it('lets nothing of low priority out beside two stylesheets of the head', () => {
    const css = [1, 2].map((id) => fetchNode(id, { kind: 'style', priority: 4, serverMs: 600 }));
    const hold = fetchNode(3, { kind: 'script', priority: 3, serverMs: 900 });
    const g = graphOf([...css, hold, ...pictures(3, {}, 4)], {
      styles: [style(1), style(2)],
      scripts: [script(0, 3)],
    });
    const r = replay(g);
    expect(Math.min(...r.fetches.slice(4).map((t) => t.sentMs))).to.be.above(r.fetches[2]?.endMs ?? Infinity);
  });

  it('does not hold back what is urgent', () => {
    for (const priority of [3, 4] as const) {
      const r = replay(graphOf([slowHead, ...pictures(6, { priority })], { scripts: [script(0, 1)] }));
      const sent = r.fetches.slice(2).map((t) => t.sentMs);
      expect(Math.max(...sent), `priority ${priority}`).to.be.below(r.scripts[0]?.startMs ?? 0);
      expect(mostAtOnce(r.fetches.slice(2), Infinity)).to.equal(6);
    }
  });

  it('lets out the more urgent of what it held back first', () => {
    const g = graphOf([slowHead, ...pictures(6, { priority: 0 }), ...pictures(2, { priority: 1 }, 8)], {
      scripts: [script(0, 1)],
    });
    const sent = replay(g).fetches.map((t) => t.sentMs);
    // The two that are out first were found first; of the others the later but more urgent ones lead.
    expect(Math.max(sent[8] ?? 0, sent[9] ?? 0)).to.be.below(Math.min(...sent.slice(4, 8)));
  });

  it('raises what layout finds in the first screen: on a busy HTTP/1.1 host it goes next', () => {
    const media = { protocol: 'h1', origin: 'https://media.example', bodyBytes: 40_000 } as const;
    const queue = (inViewport: boolean) =>
      graphOf([
        ...pictures(20, media, 1),
        fetchNode(21, { ...media, inViewport, discovery: { by: 'scanner', offset: 1500 } }),
      ]);
    const [plain, raised] = [queue(false), queue(true)].map((g) => replay(g).fetches);
    const place = (times: readonly FetchTimes[] = []) =>
      times.filter((t) => t.sentMs < (times[21]?.sentMs ?? 0)).length;
    expect(place(plain)).to.equal(21);
    expect(place(raised)).to.be.below(16);
  });

  it('opens new connections only for another host, or for requests without credentials (Fetch, 2.6)', () => {
    const css = fetchNode(1, { kind: 'style', priority: 4, bodyBytes: 3000 });
    const font = (values: Partial<FetchNode>) =>
      replay(
        graphOf(
          [css, fetchNode(2, { kind: 'font', priority: 4, discovery: { by: 'scanner', offset: 900 }, ...values })],
          { styles: [style(1)] },
        ),
      ).fetches[2]?.sentMs ?? 0;
    const same = font({});
    // TCP and TLS: two round trips.
    expect(font({ origin: 'https://type.example' }) - same).to.be.within(190, 230);
    expect(font({ anonymous: true }) - same).to.be.within(190, 230);
  });

  it('has a second connection to the host of the page ready on HTTP/1.1', () => {
    const sheets = [1, 2, 3].map((id) => fetchNode(id, { kind: 'style', priority: 4, bodyBytes: 3000 }));
    const g = graphOf(sheets, { styles: [style(1), style(2), style(3)] });
    const h1 = { ...g, fetches: g.fetches.map((f) => ({ ...f, protocol: 'h1' as const })) };
    const [, first, second, third] = replay(h1).fetches.map((t) => t.firstByteMs);
    expect((second ?? 0) - (first ?? 0)).to.be.within(0, 20);
    expect((third ?? 0) - (first ?? 0)).to.be.within(100, 250);
    // Nothing else is opened ahead: a host of others has none.
    const others = {
      ...h1,
      fetches: h1.fetches.map((f) => (f.id === 2 ? { ...f, origin: 'https://type.example' } : f)),
    };
    const [, , far] = replay(others).fetches.map((t) => t.firstByteMs);
    expect((far ?? 0) - (first ?? 0)).to.be.within(190, 250);
  });

  it('sends as much at once after a rest as before', () => {
    const took = (delayMs: number) => {
      const early = fetchNode(1, { kind: 'script', priority: 3, bodyBytes: 120_000 });
      const late = fetchNode(2, { bodyBytes: 120_000, discovery: { by: 'script', script: 1, delayMs: 0 } });
      const waits = script(1, -1, { mode: 'callback', after: { by: 'script', script: 0, delayMs }, runMs: 1 });
      const t = replay(graphOf([early, late], { scripts: [script(0, 1), waits] })).fetches[2];
      return (t?.endMs ?? 0) - (t?.sentMs ?? 0);
    };
    expect(took(3000)).to.be.closeTo(took(0), 5);
  });

  it('lets a server that honours urgency send what is urgent first, another both in turn (RFC 9218)', () => {
    const two = [
      fetchNode(1, { kind: 'image', priority: 1, bodyBytes: 400_000 }),
      fetchNode(2, { kind: 'style', priority: 4, bodyBytes: 400_000 }),
    ];
    const gap = (byUrgency: readonly string[]) => {
      const t = replay(graphOf(two, { byUrgency, styles: [style(2, { blocking: false })] })).fetches;
      return (t[1]?.endMs ?? 0) - (t[2]?.endMs ?? 0);
    };
    expect(gap([fetchNode(1).origin])).to.be.above(250);
    expect(Math.abs(gap([]))).to.be.below(100);
  });

  it('takes a redirect hop by hop, each to its own host', () => {
    const hop = fetchNode(1, { bodyBytes: 0, redirectTo: 2, serverMs: 0 });
    const end = (origin: string) =>
      fetchNode(2, { origin, serverMs: 0, discovery: { by: 'fetch', fetch: 1, delayMs: 0 } });
    const at = (origin: string) => replay(graphOf([hop, end(origin)])).fetches;
    const here = at(hop.origin);
    const far = at('https://far.example');
    expect(here[2]?.foundMs).to.be.at.least(here[1]?.endMs ?? Infinity);
    expect((far[2]?.sentMs ?? 0) - (here[2]?.sentMs ?? 0)).to.be.within(190, 230);
  });

  it('leaves what nobody asks for, and says so in requests and bytes', () => {
    const seen = graphOf([fetchNode(1)]);
    const hidden = graphOf([fetchNode(1, { discovery: { by: 'never' } })]);
    expect(ms(hidden).requests).to.equal(ms(seen).requests - 1);
    expect(ms(hidden).bytes).to.equal(ms(seen).bytes - 10_200);
    expect(replay(hidden).fetches[1]?.foundMs).to.equal(-1);
  });

  it('spends neither time on the wire nor bytes on what is kept from before', () => {
    const kept = graphOf([fetchNode(1, { kept: true, kind: 'style', priority: 4 })], { styles: [style(1)] });
    const r = replay(kept);
    expect(r.milestones).to.include({ requests: 1, bytes: 10_200 });
    expect(r.fetches[1]?.endMs).to.be.closeTo(r.fetches[1]?.foundMs ?? -1, 5);
  });

  it('sends requests up a link that has its own rate', () => {
    const big = (requestBytes: number) =>
      replay(graphOf([fetchNode(1, { requestBytes, protocol: 'h1', origin: 'https://media.example' })]), {
        ...LINK,
        upKbps: 64,
      }).fetches[1];
    const wait = (t: FetchTimes | undefined) => (t?.firstByteMs ?? 0) - (t?.sentMs ?? 0);
    // 4,000 bytes more at 64 kbit/s take half a second.
    expect(wait(big(4400)) - wait(big(400))).to.be.closeTo(500, 5);
  });

  it('never has more out on an HTTP/1.1 host than its six connections', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ bodyBytes: fc.integer({ min: 0, max: 80_000 }), serverMs: fc.nat(400) }), {
          minLength: 7,
          maxLength: 30,
        }),
        fc.integer({ min: 300, max: 30_000 }),
        (list, downKbps) => {
          const g = graphOf(
            list.map((v, i) => fetchNode(i + 1, { ...v, protocol: 'h1', origin: 'https://media.example' })),
          );
          const own = replay(g, { ...LINK, downKbps }).fetches.slice(1);
          expect(mostAtOnce(own, Infinity)).to.be.at.most(6);
          expect(own.every((t) => t.endMs > 0)).to.equal(true);
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe('core/load: HTTP/1.1 over several origins', () => {
  const hosts = ['one', 'two', 'three'];
  const spread = (values: Partial<FetchNode>) =>
    graphOf(
      Array.from({ length: 18 }, (_, i) => {
        const origin = `https://${hosts[i % 3]}.example`;
        return fetchNode(1 + i, { protocol: 'h1', origin, url: `${origin}/${i}`, serverMs: 300, ...values });
      }),
    );

  it('lets ten requests of low priority out at a time, and all that are more urgent', () => {
    const out = (priority: 1 | 2) => mostAtOnce(replay(spread({ priority })).fetches.slice(1), Infinity);
    expect(out(1)).to.equal(10);
    expect(out(2)).to.equal(18);
  });

  it('asks for all of them in the end, whatever is raised meanwhile', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 18, maxLength: 18 }), (bits) => {
        const g = spread({ priority: 1 });
        const mixed = {
          ...g,
          fetches: g.fetches.map((f, i) => (i > 0 && (bits[i - 1] ?? 0) % 2 ? { ...f, inViewport: true } : f)),
        };
        expect(replay(mixed).fetches.every((t) => t.endMs > 0)).to.equal(true);
      }),
      { numRuns: 30 },
    );
  });
});
