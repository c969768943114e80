import { expect } from 'chai';
import fs from 'node:fs';
import path from 'node:path';
import { projectRoot } from '../../src/engine/store/store';
import { runCommand as run } from '../fixtures/commandLine';
import { tempFolder } from '../fixtures/temp';

const glasshouse = path.join(projectRoot(), 'demo/captures/glasshouse-phone.har.gz');

describe('cli gate', () => {
  const temp = tempFolder('gate');
  after(temp.remove);
  const file = (name: string, ...limits: object[]) => {
    const at = path.join(temp.folder, name);
    fs.writeFileSync(at, JSON.stringify({ limits }));
    return at;
  };

  it('prints each limit with its value, and ends with 0 when all hold', async () => {
    const held = file(
      'wide.json',
      { figure: 'lcpMs', visitor: 'phone-busy', most: 60_000 },
      { figure: 'requests', most: 9999 },
    );
    const r = await run('gate', glasshouse, '--limits', held);
    expect(r.code).to.equal(0);
    expect(r.out).to.match(/holds .*hero paint \(LCP\) for phone-busy is .* s/);
    expect(r.out).to.contain('All 2 limits hold.');
  });

  it('ends with 1 and the reason when one is broken, and writes all its files', async () => {
    const tight = file(
      'tight.json',
      { figure: 'lcpMs', visitor: 'phone-busy', most: 10 },
      { figure: 'findings', most: 0 },
    );
    const out = (name: string) => path.join(temp.folder, name);
    const r = await run(
      ...['gate', glasshouse, '--limits', tight, '--against', glasshouse, '--json'],
      ...['--junit', out('j.xml'), '--sarif', out('s.sarif'), '--markdown', out('m.md')],
    );
    expect(r.code).to.equal(1);
    const report = JSON.parse(r.out) as {
      passed: boolean;
      limits: { figure: string; broken: boolean; before: number; value: number }[];
    };
    expect(report.passed).to.equal(false);
    expect(report.limits.map((l) => l.broken)).to.deep.equal([true, true]);
    expect(report.limits[0]?.before).to.equal(report.limits[0]?.value);
    expect(fs.readFileSync(out('j.xml'), 'utf8')).to.contain('failures="2"');
    expect(JSON.parse(fs.readFileSync(out('s.sarif'), 'utf8'))).to.have.property('version', '2.1.0');
    expect(fs.readFileSync(out('m.md'), 'utf8')).to.contain('## Keen Lens: failed');
  });

  it('tells bad calls and bad files from broken limits', async () => {
    const broken = path.join(temp.folder, 'broken.json');
    fs.writeFileSync(broken, '{"limits":');
    expect((await run('gate', glasshouse)).code).to.equal(2);
    const bad = await run('gate', glasshouse, '--limits', broken);
    expect(bad.code).to.equal(3);
    expect(bad.err).to.contain('This is no JSON');
    expect((await run('gate', 'none.har', '--limits', file('one.json', { figure: 'bytes', most: 1 }))).code).to.equal(
      3,
    );
  });
});
