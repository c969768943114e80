import { expect } from 'chai';
import fc from 'fast-check';
import { InputError } from '../../../src/core/capture/errors';
import { latestRows, rowFinder } from '../../../src/core/field/fieldData';
import { readField } from '../../../src/core/field/readField';

const HOME = 'https://www.fernhollow.example/';
const read = (text: string) => readField(text, HOME, 'field.csv');

describe('core/field/readField', () => {
  it('reads a table by the names of its columns, with units and decimal commas', () => {
    const { rows, as, unread } = read(
      'Page;Device;Month;LCP (s);FCP ms;CLS;Visits\n/glasshouse/;Phone;2026-10;4,1;2100;0,02;1240\nwww.fernhollow.example;Desktop;2026-10-03;2,0;900;0,1;\n;Phone;2026-10;1;1;1;1\n',
    );
    expect(as).to.equal('table');
    expect(rows).to.deep.equal([
      {
        of: 'page',
        address: 'https://www.fernhollow.example/glasshouse/',
        device: 'phone',
        month: '2026-10',
        p75: { lcpMs: 4100, fcpMs: 2100, cls: 0.02 },
        shares: {},
        visits: 1240,
      },
      {
        of: 'origin',
        address: 'https://www.fernhollow.example',
        device: 'desktop',
        month: '2026-10',
        p75: { lcpMs: 2000, fcpMs: 900, cls: 0.1 },
        shares: {},
      },
    ]);
    expect(unread).to.deep.include({ count: 1, examples: ['line 4: no address'] });
  });

  it('reads JSON with histograms, whatever its list is called', () => {
    const { rows } = read(
      JSON.stringify({
        rows: [
          {
            url: `${HOME}visit/?a=1#b`,
            formFactor: 'PHONE',
            largest_contentful_paint: {
              histogram: [{ density: 0.5 }, { density: 0.3 }, { density: 0.2 }],
              percentiles: { p75: 3900 },
            },
            cumulative_layout_shift: { percentiles: { p75: '0.05' } },
          },
        ],
      }),
    );
    expect(rows[0]).to.deep.include({
      address: `${HOME}visit/`,
      device: 'phone',
      p75: { lcpMs: 3900, cls: 0.05 },
    });
    expect(rows[0]?.shares.lcpMs?.middling).to.be.closeTo(0.3, 1e-9);
  });

  it('makes p75s and shares of single visits', () => {
    const lines = [1000, 2000, 3000, 5000].map((value) =>
      JSON.stringify({ url: HOME, name: 'LCP', value, device: 'mobile', ts: 1_790_000_000_000 }),
    );
    const { rows, as } = read([...lines, '{"url":"/x","fcp":900,"lcp":1200}', '{"name":"LCP","value":3}'].join('\n'));
    expect(as).to.equal('single visits');
    expect(rows).to.deep.equal([
      {
        of: 'page',
        address: HOME,
        device: 'phone',
        month: '2026-09',
        p75: { lcpMs: 3000 },
        shares: { lcpMs: { good: 0.5, middling: 0.25, poor: 0.25 } },
        visits: 4,
      },
      {
        of: 'page',
        address: `${HOME}x`,
        device: 'all',
        month: '',
        p75: { fcpMs: 900, lcpMs: 1200 },
        shares: { fcpMs: { good: 1, middling: 0, poor: 0 }, lcpMs: { good: 1, middling: 0, poor: 0 } },
        visits: 1,
      },
    ]);
  });

  it('takes the latest month, and the page before its origin', () => {
    const { rows } = read(
      `url,device,month,LCP\n${HOME},phone,2026-09,1\n${HOME},all,2026-10,2000\n${HOME},phone,2026-10,3000\nhttps://www.fernhollow.example,phone,2026-10,4000`,
    );
    const latest = latestRows(rows, 'phone');
    expect(rowFinder(latest)(`${HOME}?utm_source=x`)?.p75.lcpMs).to.equal(3000);
    expect(rowFinder(latest)(`${HOME}talks/`)).to.include({ of: 'origin' });
    expect(rowFinder(latest)('https://other.example/')).to.equal(undefined);
  });

  it('says what is missing', () => {
    for (const text of ['', 'a,b\n1,2', '[]', '{', 'url,LCP\nx y,fast'])
      expect(() => read(text), text).to.throw(InputError);
  });

  it('never fails otherwise, nor lets a number out that is none', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string(),
          fc.json(),
          fc
            .array(fc.record({ url: fc.string(), lcp: fc.jsonValue(), cls: fc.jsonValue() }))
            .map((v) => JSON.stringify(v)),
          fc
            .array(fc.tuple(fc.webUrl(), fc.double(), fc.string()), { minLength: 1 })
            .map((v) => `url,lcp,device\n${v.map((r) => r.join(',')).join('\n')}`),
        ),
        (text) => {
          try {
            for (const row of read(text).rows)
              for (const value of Object.values(row.p75)) expect(value).to.be.within(0, 600_000);
          } catch (error) {
            expect(error).to.be.instanceOf(InputError);
          }
        },
      ),
      { numRuns: 300 },
    );
  });
});
