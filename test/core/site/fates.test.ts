import { expect } from 'chai';
import fc from 'fast-check';
import type { Probe } from '../../../src/core/site/entrances';
import { FATES, fatesOf, foldRows, needsWork, otherForms, type Known } from '../../../src/core/site/fates';

const HOME = 'https://www.fernhollow.example/';
const site = { home: HOME, own: (url: string) => new URL(url).hostname.endsWith('fernhollow.example') };
const came = (from: string, way: readonly (readonly [number, string])[], status = 200): Probe => {
  let url = from;
  const hops = way.map(([code, location]) => {
    const hop = { url, status: code, kind: 'http', permanent: code === 301, ms: 9, location } as const;
    url = location;
    return hop;
  });
  return { from, family: 'IPv4', hops, end: { url, status } };
};
const fate = (address: string, known: Known) => fatesOf([{ address }], site, known, []).rows[0];

describe('core/site/fates', () => {
  it('adds up the rows of one address; the position is the mean by impressions', () => {
    const rows = foldRows([
      { address: 'a', clicks: 3, impressions: 100, position: 2 },
      { address: 'b', clicks: 1 },
      { address: 'a', clicks: 4, impressions: 300, position: 6 },
      { address: 'a' },
    ]);
    expect(rows).to.deep.equal([
      { address: 'a', clicks: 7, impressions: 400, position: (2 * 100 + 6 * 300) / 400, rows: 3 },
      { address: 'b', clicks: 1, rows: 1 },
    ]);
  });

  it('names the form that an address should have: secure, on the host of the home page', () => {
    expect(otherForms('http://fernhollow.example/visit/?day=2', HOME)).to.deep.equal([`${HOME}visit/?day=2`]);
    expect(otherForms('https://fernhollow.example/visit/', HOME)).to.deep.equal([`${HOME}visit/`]);
    expect(otherForms('http://shop.fernhollow.example/', HOME)).to.deep.equal(['https://shop.fernhollow.example/']);
    expect(otherForms(`${HOME}visit/`, HOME)).to.deep.equal([]);
    expect(otherForms('https://shop.fernhollow.example/', HOME)).to.deep.equal([]);
  });

  it('tells history from what needs work, and what was not asked from what belongs to others', () => {
    const old = 'http://www.fernhollow.example/visit/';
    const moved = fate(old, () => came(old, [[301, `${HOME}visit/`]]));
    expect(moved?.fate).to.equal('history');
    expect(moved?.says).to.contain('Tools that report it as failing show an old state.');
    const bare = 'https://fernhollow.example/visit/';
    expect(fate(bare, () => came(bare, [[301, `${HOME}visit/`]]))?.fate).to.equal('redirects properly');
    expect(fate(`${HOME}visit/`, () => came(`${HOME}visit/`, []))?.fate).to.equal('direct');
    expect(fate('https://other.example/', () => undefined)?.fate).to.equal('other host');
    expect(fate(HOME, () => undefined)?.fate).to.equal('not asked');
    expect(fate(HOME, () => 'robots')?.says).to.contain('robots.txt');
  });

  it('proposes the nearest living page for one that is gone, and for one that was sent home', () => {
    const living = [{ url: `${HOME}glasshouse/`, title: 'The glasshouse' }, { url: `${HOME}visit/` }];
    const gone = `${HOME}old/glasshouse.html`;
    const [missing] = fatesOf([{ address: gone }], site, () => came(gone, [], 404), living).rows;
    expect(missing?.fate).to.equal('missing');
    expect(missing?.nearest?.url).to.equal(`${HOME}glasshouse/`);
    const [home] = fatesOf([{ address: gone }], site, () => came(gone, [[301, HOME]]), living).rows;
    expect(home?.fate).to.equal('path lost');
    expect(home?.nearest?.url).to.equal(`${HOME}glasshouse/`);
  });

  it('lists every address once, work first, and counts them all', () => {
    const paths = fc.constantFrom('', 'visit/', 'find/', 'gone/', 'moved/');
    const statuses = fc.constantFrom<number | undefined>(200, 404, 503, undefined);
    fc.assert(
      fc.property(fc.array(fc.tuple(paths, fc.nat(50))), statuses, (list, status) => {
        const rows = list.map(([path, clicks]) => ({ address: HOME + path, clicks }));
        const known: Known = (address) => (status === undefined ? undefined : came(address, [], status));
        const report = fatesOf(rows, site, known, []);
        expect(report.rows.map((r) => r.address)).to.have.members([...new Set(rows.map((r) => r.address))]);
        expect(report.total).to.equal(report.groups.reduce((n, g) => n + g.count, 0));
        expect(report.rows.reduce((n, r) => n + (r.clicks ?? 0), 0)).to.equal(rows.reduce((n, r) => n + r.clicks, 0));
        const order = report.rows.map((r) => FATES.indexOf(r.fate));
        expect(order).to.deep.equal([...order].sort((a, b) => a - b));
      }),
    );
    expect(FATES.filter(needsWork)).not.to.include.members(['history', 'direct', 'redirects properly']);
  });
});
