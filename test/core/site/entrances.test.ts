import { expect } from 'chai';
import fc from 'fast-check';
import {
  hostForms,
  isGood,
  judgeEntrances,
  judgeOne,
  probeTargets,
  VERDICTS,
  type Probe,
  type ProbedPage,
  type ProbeHop,
} from '../../../src/core/site/entrances';

const HOME = 'https://www.fernhollow.example/';
const page = (name: string, canonical?: string): ProbedPage => ({
  bodyHash: name,
  textHash: name,
  title: name,
  ...(canonical !== undefined && { canonical }),
});

/** A probe whose hops are redirects with a status, a meta refresh or a script, and then the end. */
const probe = (
  from: string,
  way: readonly (readonly [number | 'meta' | 'script', string])[] = [],
  more: Partial<Probe> & { readonly status?: number } = {},
): Probe => {
  const { status = 200, ...rest } = more;
  let url = from;
  const hops = way.map(([how, location]): ProbeHop => {
    const kind = typeof how === 'number' ? 'http' : how;
    const hop = { url, status: typeof how === 'number' ? how : 200, kind, ms: 20, location } as const;
    url = location;
    return { ...hop, permanent: how === 301 || how === 308 };
  });
  const end = { url, status };
  return {
    from,
    family: 'IPv4',
    hops: [...hops, { url, status, kind: 'http', permanent: false, ms: 20, location: null }],
    end,
    page: page('home'),
    ...rest,
  };
};

/** Verdicts of some ways to the home page, by their address. */
const judged = (probes: readonly Probe[]) => {
  const targets = probeTargets([{ url: HOME }], []);
  return new Map(judgeEntrances(targets, probes).map((e) => [e.from, e]));
};
const BARE = 'https://fernhollow.example/';
const PLAIN = 'http://www.fernhollow.example/';

describe('core/site/entrances', () => {
  it('asks for a home page by both schemes and host forms, and for an address by its one form', () => {
    expect(probeTargets([{ url: HOME }], []).map((t) => t.from)).to.have.members([
      HOME,
      BARE,
      PLAIN,
      'http://fernhollow.example/',
    ]);
    const given = probeTargets([{ url: HOME }], []).filter((t) => t.given);
    expect(given.map((t) => t.from)).to.deep.equal([HOME]);
    expect(probeTargets([{ url: 'https://shop.example/', alone: true }], []).map((t) => t.from)).to.have.members([
      'http://shop.example/',
      'https://shop.example/',
    ]);
    for (const host of ['192.0.2.7', '[2001:db8::1]', 'intranet']) expect(hostForms(host)).to.deep.equal([host]);
  });

  it('asks for pages with the other trailing slash and with a query; files have no such form', () => {
    const of = (url: string, why: string) => probeTargets([], [url]).flatMap((t) => (t.why === why ? [t.from] : []));
    expect(of(`${HOME}visit`, 'slash')).to.deep.equal([`${HOME}visit/`, `${PLAIN}visit/`]);
    expect(of(`${HOME}visit/`, 'slash')).to.deep.equal([`${HOME}visit`, `${PLAIN}visit`]);
    expect(of(`${HOME}map.pdf`, 'slash')).to.deep.equal([]);
    expect(of(`${HOME}visit`, 'query')).to.have.length(2);
    expect(of(`${HOME}visit?day=2`, 'query')).to.deep.equal([]);
    const pages = new Set(probeTargets([], [`${HOME}visit/`]).flatMap((t) => (t.why === 'query' ? [] : [t.page])));
    expect([...pages]).to.deep.equal(['fernhollow.example/visit']);
  });

  it('finds what does as it should', () => {
    const found = judged([probe(HOME), probe(PLAIN, [[301, HOME]]), probe(BARE, [[308, HOME]])]);
    expect(found.get(HOME)?.verdict).to.equal('direct');
    expect(found.get(PLAIN)?.verdict).to.equal('redirects properly');
    expect(found.get(BARE)?.says).to.equal(`One permanent redirect (308) to ${HOME}.`);
  });

  for (const [verdict, way] of [
    ['temporary', [[302, HOME]]],
    ['temporary', [['meta', HOME]]],
    ['temporary', [['script', HOME]]],
    ['chain', [[301, BARE], [301, HOME]]], // prettier-ignore
    ['downgrade', [[301, HOME], [301, 'http://fernhollow.example/'], [301, HOME]]], // prettier-ignore
  ] as const)
    it(`calls ${way.map(([how]) => how).join(', ')} ${verdict}`, () => {
      const found = judged([probe(HOME), probe(PLAIN, way)]).get(PLAIN);
      expect(found?.verdict, found?.says).to.equal(verdict);
    });

  it('tells a second copy of a page from one that is served by http only', () => {
    expect(judged([probe(HOME), probe(PLAIN)]).get(PLAIN)?.verdict).to.equal('duplicate');
    const other = judged([probe(HOME), probe(PLAIN, [], { page: page('another') })]).get(PLAIN);
    expect(other?.verdict).to.equal('http only');
    expect(other?.says).to.contain(`${HOME} shows another page`);
    const alone = judged([probe(PLAIN), probe(HOME, [], { end: null, fault: 'refused' })]).get(PLAIN);
    expect(alone?.says).to.contain('no https:// URL of it works');
    const twins = judged([probe(HOME), probe(BARE)]).get(BARE);
    expect(twins?.verdict).to.equal('duplicate');
    expect(twins?.says).to.contain('shows the same page');
  });

  it('takes the address that a page calls canonical for the one that all should reach', () => {
    const named = judged([probe(HOME, [], { page: page('home', BARE) }), probe(BARE), probe(PLAIN, [[301, BARE]])]);
    expect(named.get(BARE)?.verdict).to.equal('direct');
    expect(named.get(HOME)?.verdict).to.equal('duplicate');
    expect(named.get(PLAIN)?.verdict).to.equal('redirects properly');
  });

  it('says what went wrong where there is no end', () => {
    const at = (more: Partial<Probe> & { status?: number }, way: Parameters<typeof probe>[1] = []) =>
      judged([probe(HOME), probe(PLAIN, way, more)]).get(PLAIN);
    expect(at({ fault: 'loop', end: null })?.verdict).to.equal('loop');
    expect(at({ fault: 'certificate', end: null, error: 'the certificate has expired' }, [[301, BARE]])?.says).to.equal(
      `The certificate has expired at ${BARE} after a redirect (301).`,
    );
    expect(at({ end: null })?.verdict).to.equal('no answer');
    expect(at({ status: 404 })?.verdict).to.equal('missing');
    expect(at({ status: 503 }, [[301, HOME]])?.says).to.contain('503');
  });

  it('notices pages that are sent to the home page, to another page, or without their query', () => {
    const deep = `${HOME}visit/`;
    const targets = probeTargets([], [deep]);
    const plain = `${PLAIN}visit/`;
    const asked = `${plain}?keen-lens=kept`;
    const verdicts = (probes: readonly Probe[]) =>
      new Map(judgeEntrances(targets, [probe(deep), ...probes]).map((e) => [e.from, e]));
    expect(verdicts([probe(plain, [[301, HOME]])]).get(plain)?.says).to.contain('home page');
    expect(verdicts([probe(plain, [[301, `${HOME}find/`]])]).get(plain)?.says).to.contain('another page');
    expect(verdicts([probe(asked, [[301, deep]])]).get(asked)?.says).to.contain('Loses the query ?keen-lens=kept');
    expect(verdicts([probe(asked, [[301, `${deep}?keen-lens=kept`]])]).get(asked)?.verdict).to.equal(
      'redirects properly',
    );
    expect(verdicts([probe(plain, [[301, `${HOME}visit/index.html`]])]).get(plain)?.verdict).to.equal(
      'redirects properly',
    );
  });

  it('lets an address of an outside list move to another path', () => {
    const old = `${PLAIN}map.htm`;
    const target = { from: old, page: old, why: 'list' } as const;
    const now = `${HOME}visit/`;
    const { verdict } = judgeOne(target, probe(old, [[301, now]]), []);
    expect(verdict).to.equal('redirects properly');
    expect(judgeOne(target, probe(old, [[301, HOME]]), []).verdict).to.equal('path lost');
  });

  it('never praises what it should not, whatever came back', () => {
    const addresses = [HOME, BARE, PLAIN, 'http://fernhollow.example/', `${HOME}visit/`];
    const hop = fc.tuple(
      fc.constantFrom<number | 'meta' | 'script'>(301, 302, 307, 308, 'meta', 'script'),
      fc.constantFrom(...addresses),
    );
    const made = fc.record({
      from: fc.constantFrom(...addresses.slice(0, 4)),
      way: fc.array(hop, { maxLength: 3 }),
      status: fc.constantFrom(200, 204, 404, 500),
      fault: fc.option(fc.constantFrom<NonNullable<Probe['fault']>>('refused', 'loop', 'no answer'), {
        nil: undefined,
      }),
      name: fc.constantFrom('home', 'visit'),
    });
    fc.assert(
      fc.property(fc.array(made, { maxLength: 5 }), (list) => {
        const probes = list.map((p) =>
          probe(p.from, p.way, { status: p.status, page: page(p.name), ...(p.fault && { fault: p.fault, end: null }) }),
        );
        const found = judgeEntrances(probeTargets([{ url: HOME }], []), probes);
        expect(found).to.have.length(probes.length);
        for (const { verdict, says, hops, end, fault } of found) {
          expect(VERDICTS).to.include(verdict);
          expect(says).to.match(/^[A-Zh].*\.$/);
          if (!isGood(verdict)) continue;
          const redirects = hops.filter((h) => h.location !== null);
          expect(fault).to.equal(undefined);
          expect(end?.url).to.match(/^https:/);
          expect(end?.status).to.be.below(400);
          expect(redirects).to.have.length(verdict === 'direct' ? 0 : 1);
          for (const h of redirects) expect(h.permanent).to.equal(true);
        }
      }),
    );
  });
});
