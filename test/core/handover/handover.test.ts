import { expect } from 'chai';
import { CHECKS } from '../../../src/core/checks';
import { toCsv } from '../../../src/core/handover/csv';
import { findingsCsv } from '../../../src/core/handover/findingsTable';
import { findingsSarif } from '../../../src/core/handover/sarif';
import { auditOf } from '../../fixtures/har';

const audit = auditOf(
  '<!doctype html>\n<img src="http://a.example/x,y.jpg">\n<script src="http://a.example/s.js"></script>',
);

describe('core/handover', () => {
  it('writes CSV by RFC 4180, and no formulas', () => {
    expect(
      toCsv(
        ['a', 'b'],
        [
          ['x,y', 1],
          ['say "hi"\nthere', undefined],
          ['=1+1', -2],
        ],
      ),
    ).to.equal('a,b\r\n"x,y",1\r\n"say ""hi""\nthere",\r\n"\'=1+1",-2\r\n');
  });

  it('writes findings as a table with place', () => {
    const lines = findingsCsv(audit.findings).trim().split('\r\n');
    expect(lines).to.have.length(audit.findings.length + 1);
    expect(lines.join()).to.contain('"http://a.example/x,y.jpg"');
  });

  it('writes SARIF 2.1.0 with rules, levels and places', () => {
    const log = findingsSarif(audit.findings, '1.2.3') as {
      version: string;
      runs: {
        tool: { driver: { rules: { id: string }[] } };
        results: {
          ruleId: string;
          level: string;
          locations: { physicalLocation: { region?: { startLine: number } } }[];
        }[];
      }[];
    };
    expect(log.version).to.equal('2.1.0');
    const run = log.runs[0];
    expect(run?.tool.driver.rules.map((r) => r.id)).to.deep.equal(CHECKS.map((c) => c.id));
    const js = run?.results.find(
      (r) => r.level === 'error' && r.locations[0]?.physicalLocation.region?.startLine === 3,
    );
    expect(js?.ruleId).to.equal('mixed-markup');
  });
});
