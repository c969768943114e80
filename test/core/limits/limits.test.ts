import { expect } from 'chai';
import fc from 'fast-check';
import { InputError } from '../../../src/core/capture/errors';
import { gateJunit, gateMarkdown, gateSarif } from '../../../src/core/limits/gateFiles';
import { judgeLimits } from '../../../src/core/limits/judgeLimits';
import { readLimits } from '../../../src/core/limits/limits';
import { auditOf, PAGE } from '../../fixtures/har';

const limits = (...list: object[]) => readLimits(JSON.stringify({ limits: list }), 'limits.json');
const page = (bytes: number, script = true) =>
  auditOf(
    `<!doctype html><html><head>${script ? '<script src="/kit.js"></script>' : ''}</head><body><h1>Ferns</h1><img src="/hero.jpg" alt="" width="800" height="600"></body></html>`,
    [
      ...(script ? [{ url: PAGE + 'kit.js', bytes: 90_000, start: 60 }] : []),
      { url: PAGE + 'hero.jpg', bytes, start: 62 },
    ],
  );

describe('core/limits: files of limits', () => {
  const fault = (text: string): InputError => {
    try {
      readLimits(text, 'limits.json');
    } catch (error) {
      if (error instanceof InputError) return error;
      throw error;
    }
    throw new Error('nothing was wrong');
  };

  it('are read, with a visitor by name or spec, and without tolerance unless stated', () => {
    const [lcp, findings] = limits(
      { figure: 'lcpMs', visitor: 'phone-busy', most: 2500, tolerance: 0.1 },
      { figure: 'findings', most: 0, concern: 'mixed', harm: 'broken' },
    );
    expect(lcp).to.include({ figure: 'lcpMs', most: 2500, tolerance: 0.1 });
    expect(lcp?.visitor.id).to.equal('phone-busy');
    expect(findings).to.include({ concern: 'mixed', harm: 'broken', tolerance: 0 });
  });

  it('say what is wrong, and where', () => {
    expect(fault('{').where).to.equal('limits.json');
    expect(fault('[]').where).to.equal('limits.json.limits');
    expect(fault('{"limits":[]}').what).to.contain('no limit');
    const one = (limit: object) => fault(JSON.stringify({ limits: [limit] }));
    expect(one({ figure: 'speed', most: 1 }).where).to.equal('limits.json.limits[0].figure');
    expect(one({ figure: 'lcpMs' }).where).to.equal('limits.json.limits[0].most');
    expect(one({ figure: 'lcpMs', most: -1 }).where).to.equal('limits.json.limits[0].most');
    expect(one({ figure: 'lcpMs', most: 1, visitor: 'nobody' }).where).to.equal('limits.json.limits[0].visitor');
    expect(one({ figure: 'lcpMs', most: 1, harm: 'slow' }).what).to.contain('Only findings');
    expect(one({ figure: 'findings', most: 1, concern: 'speed' }).next).to.contain('mixed');
    expect(one({ figure: 'lcpMs', most: 1, tolerance: 'much' }).where).to.equal('limits.json.limits[0].tolerance');
  });

  it('never fail otherwise than with a reason, whatever they hold', () => {
    fc.assert(
      fc.property(fc.json(), (text) => {
        try {
          readLimits(text, 'limits.json');
        } catch (error) {
          expect(error).to.be.instanceOf(InputError);
        }
      }),
    );
  });
});

describe('core/limits: the gate', () => {
  it('breaks at a value above the limit, and not within the tolerance', () => {
    const audit = page(60_000);
    const [held] = judgeLimits([audit], limits({ figure: 'lcpMs', most: 60_000 })).limits;
    const value = held?.value ?? 0;
    expect(value).to.be.above(100);
    expect(held?.range?.[0]).to.be.below(value);
    expect(held?.range?.[1]).to.be.above(value);
    const broken = (limit: object) => !judgeLimits([audit], limits({ figure: 'lcpMs', ...limit })).passed;
    expect(broken({ most: value })).to.equal(false);
    expect(broken({ most: value - 1 })).to.equal(true);
    expect(broken({ most: value / 1.04, tolerance: 0.05 })).to.equal(false);
    expect(broken({ most: value / 1.06, tolerance: 0.05 })).to.equal(true);
  });

  it('counts bytes, requests and findings', () => {
    const audit = page(60_000);
    const { limits: judged } = judgeLimits(
      [audit],
      limits(
        { figure: 'requests', most: 3 },
        { figure: 'bytes', most: 1000 },
        { figure: 'findings', most: 0, concern: 'blocking' },
      ),
    );
    expect(judged.map((j) => j.broken)).to.deep.equal([false, true, true]);
    expect(judged[2]?.value).to.equal(audit.findings.filter((f) => f.concern === 'blocking').length);
  });

  it('fails when the page became slower than before beyond doubt, and names new findings', () => {
    const wide = limits({ figure: 'lcpMs', most: 60_000 });
    const same = judgeLimits([page(60_000)], wide, [page(60_000)]);
    expect(same).to.include({ passed: true });
    expect(same.newFindings).to.deep.equal([]);
    const worse = judgeLimits([page(600_000)], wide, [page(60_000, false)]);
    expect(worse.passed).to.equal(false);
    expect(worse.worse[0]).to.include({ figure: 'fcpMs' });
    expect(worse.newFindings.length).to.be.above(0);
    // The other way round it became better.
    expect(judgeLimits([page(60_000, false)], wide, [page(600_000)]).passed).to.equal(true);
  });

  it('writes JUnit, Markdown and SARIF that say the same, whatever the page is called', () => {
    const audit = page(60_000);
    const report = judgeLimits([audit], limits({ figure: 'lcpMs', most: 1 }, { figure: 'requests', most: 99 }));
    const odd = {
      ...report,
      limits: report.limits.map((j) => ({ ...j, page: 'https://a.example/?a=1&b="<|`\u0000' })),
    };
    const junit = gateJunit(odd, '2026-11-28T00:00:00.000Z');
    expect(junit).to.contain('tests="2" failures="1"').and.to.contain('a=1&amp;b=&quot;&lt;|`');
    expect(junit).not.to.contain('\u0000');
    expect(gateMarkdown(odd)).to.contain('**broken**').and.to.contain('\\|\\`');
    const sarif = gateSarif(report, audit.findings, '1') as { runs: { results: { ruleId: string }[] }[] };
    expect(sarif.runs[0]?.results.filter((r) => r.ruleId === 'limit')).to.have.length(1);
    expect(sarif.runs[0]?.results).to.have.length(audit.findings.length + 1);
  });
});
