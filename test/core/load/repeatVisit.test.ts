import { expect } from 'chai';
import type { FetchNode, Keep } from '../../../src/core/load/graph';
import { BACK_AFTER_S, repeatVisit } from '../../../src/core/load/repeatVisit';
import { fetchNode, graphOf, LINK, ms, replay, style } from '../../fixtures/graph';

const DAY = 86_400;
const css = (keep: Keep | undefined, values: Partial<FetchNode> = {}) =>
  fetchNode(1, { kind: 'style', priority: 4, bodyBytes: 60_000, serverMs: 300, keep, ...values });
const again = (keep: Keep | undefined, afterS?: number) =>
  repeatVisit(graphOf([css(keep)], { styles: [style(1)] }), afterS);

describe('core/load/repeatVisit (RFC 9111)', () => {
  it('takes what is fresh from the store, without the network (4.2)', () => {
    const g = again({ store: true, freshS: DAY, validator: false });
    expect(ms(g)).to.include({ requests: 1, bytes: 10_200 });
    expect(ms(g).fcpMs).to.be.below(ms(again(undefined)).fcpMs - 400);
  });

  it('asks for what is stale with its validator: a round trip and a header (4.3)', () => {
    const g = again({ store: true, freshS: DAY - 1, validator: true });
    const m = ms(g);
    expect(m.requests).to.equal(2);
    expect(m.bytes - 10_200).to.be.below(400);
    const first = ms(again(undefined));
    expect(first.fcpMs - m.fcpMs).to.be.above(40);
    expect(m.fcpMs).to.be.above(ms(again({ store: true, freshS: DAY, validator: true })).fcpMs + LINK.rttMs);
  });

  it('fetches whole what may not be stored, or is stale without a validator (3)', () => {
    const first = ms(graphOf([css(undefined)], { styles: [style(1)] }));
    expect(ms(again({ store: false, freshS: DAY, validator: true }))).to.deep.equal(first);
    expect(ms(again({ store: true, freshS: 0, validator: false }))).to.deep.equal(first);
    expect(ms(again(undefined))).to.deep.equal(first);
  });

  it('is a day later unless another time is said', () => {
    expect(BACK_AFTER_S).to.equal(DAY);
    const hour = { store: true, freshS: 3600, validator: false };
    expect(ms(again(hour, 1800)).requests).to.equal(1);
    expect(ms(again(hour)).requests).to.equal(2);
  });

  it('asks for the page itself, and for what a browser refused, as at first', () => {
    const keep = { store: true, freshS: DAY, validator: true };
    const g = graphOf([css(keep, { refused: true })], { styles: [style(1)] });
    const withPage = { ...g, fetches: g.fetches.map((f) => (f.id === 0 ? { ...f, keep } : f)) };
    expect(repeatVisit(withPage).fetches).to.deep.equal(withPage.fetches);
  });

  it('does not go by http first to a host that said so (RFC 6797, 8.3)', () => {
    const page = (hsts: readonly string[]) => {
      const base = graphOf([], { hsts });
      const [document] = base.fetches as [FetchNode];
      const hop = {
        ...document,
        url: 'http://www.fernhollow.example/',
        origin: 'http://www.fernhollow.example',
        secure: false,
        bodyBytes: 0,
        redirectTo: 1,
      };
      return {
        ...base,
        fetches: [hop, { ...document, id: 1, load: 1, discovery: { by: 'fetch', fetch: 0, delayMs: 0 } as const }],
        document: { ...base.document, fetch: 1 },
      };
    };
    const plain = page([]);
    const held = page(['www.fernhollow.example']);
    expect(ms(held).ttfbMs).to.equal(ms(plain).ttfbMs);
    // TCP and the hop itself; TLS is still to be done.
    expect(ms(repeatVisit(plain)).ttfbMs - ms(repeatVisit(held)).ttfbMs).to.be.within(240, 270);
    expect(replay(repeatVisit(held)).milestones.requests).to.equal(1);
  });
});
