import { expect } from 'chai';
import { unzipSync } from 'fflate';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import { filePathOf } from '../../src/core/handover/filePath';
import { reportFacts } from '../../src/core/handover/report/facts';
import { parseVisitor, VISITORS, type Visitor } from '../../src/core/load/visitors';
import { auditHar } from '../../src/engine/services/importHar';
import { makeReport, pagesOfAudits } from '../../src/engine/services/makeReport';
import { reportExtras } from '../../src/engine/services/reportExtras';
import { keptForecast } from '../../src/engine/services/sweepForecasts';
import { openStore, projectRoot } from '../../src/engine/store/store';
import { putDemo } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

describe('engine: the auditor’s tables', () => {
  it('come as one ZIP of CSV files, and the findings as SARIF', async () => {
    const file = path.join(projectRoot(), 'demo/captures/membership-phone.har.gz');
    const read = await auditHar(fs.readFileSync(file), 'membership');
    const about = { site: 'Fernhollow', day: '2026-11-26' };
    const facts = await reportFacts(pagesOfAudits(read), about, VISITORS[0] as Visitor);
    const entries = unzipSync(await makeReport(facts, 'auditor', 'zip'));
    expect(Object.keys(entries)).to.deep.equal(['pages.csv', 'findings.csv', 'tasks.csv', 'not-examined.csv']);
    const lines = Buffer.from(entries['findings.csv'] ?? [])
      .toString('utf8')
      .trimEnd()
      .split('\r\n');
    const findings = read.flatMap((r) => r.audit.findings);
    expect(lines.length).to.be.at.least(findings.length + 1);
    const sarif = JSON.parse(Buffer.from(await makeReport(facts, 'auditor', 'sarif')).toString('utf8')) as {
      version: string;
      runs: { results: unknown[] }[];
    };
    expect(sarif.version).to.equal('2.1.0');
    expect(sarif.runs[0]?.results).to.have.length(findings.length);
  });
});

describe('engine: the ZIP for fixers', () => {
  const temp = tempFolder('package');
  after(() => temp.remove());

  it('holds the tasks, a patch that applies, and the files as the fixes leave them', async function () {
    this.timeout(60_000);
    const file = path.join(projectRoot(), 'demo/captures/home-phone.har.gz');
    const read = await auditHar(fs.readFileSync(file), 'home');
    const about = { site: 'Fernhollow', day: '2026-11-26' };
    const facts = await reportFacts(pagesOfAudits(read), about, VISITORS[0] as Visitor);
    const bytes = await makeReport(facts, 'fixer', 'zip');
    const entries = unzipSync(bytes);
    const text = (name: string) => Buffer.from(entries[name] ?? []).toString('utf8');
    expect(text('tasks.md')).to.contain('Preload the hero').and.to.contain('```diff');

    const hero = Object.keys(entries).find((n) => n.endsWith('/home-border.jpg'));
    const before = read[0]?.read.capture.loads.find((l) => l.url.endsWith('/home-border.jpg'));
    const original = read[0]?.read.bodies.get(before?.index ?? -1) as Uint8Array;
    const remade = entries[hero ?? ''] as Uint8Array;
    expect(remade.length).to.be.below(original.length);
    expect((await sharp(remade).metadata()).width).to.be.above(100);

    // The originals, as the captured site had them, patched by another program.
    const patched = Object.keys(entries).filter((n) =>
      text('changes.patch').includes(`b/${n.replace('files/', '')}\n`),
    );
    expect(patched.length).to.be.above(0);
    for (const name of patched) {
      const load = read[0]?.read.capture.loads.find(
        (l) => name === `files/${filePathOf(l.url)}` && (read[0]?.read.bodies.get(l.index)?.length ?? 0) > 0,
      );
      const place = path.join(temp.folder, name.replace('files/', ''));
      fs.mkdirSync(path.dirname(place), { recursive: true });
      fs.writeFileSync(place, read[0]?.read.bodies.get(load?.index ?? -1) ?? '');
    }
    fs.writeFileSync(path.join(temp.folder, 'changes.patch'), text('changes.patch'));
    const done = spawnSync('git', ['apply', 'changes.patch'], { cwd: temp.folder, encoding: 'utf8' });
    expect(done.stderr).to.equal('');
    for (const name of patched)
      expect(
        fs.readFileSync(path.join(temp.folder, name.replace('files/', ''))).equals(entries[name] as Uint8Array),
      ).to.equal(true, name);
  });
});

describe('engine: what a report says of the sweep before', () => {
  const temp = tempFolder('report-since');
  after(() => temp.remove());

  it('rests on the times of its pages, without a forecast of all its fixes', async () => {
    await putDemo(temp.folder);
    const store = await openStore(temp.folder);
    try {
      const visitor = parseVisitor('phone-busy,rtt=111');
      const { since } = await reportExtras(store, { siteId: 1, sweepId: 2 }, visitor);
      expect(since).to.include({ day: '2026-11-05', pages: 8 });
      expect(since?.thenMs).to.be.within(1000, 60_000);
      expect(since?.nowMs).to.be.within(1000, 60_000);
      for (const sweepId of [1, 2]) expect(await keptForecast(store, sweepId, visitor)).to.equal(undefined);
    } finally {
      await store.destroy();
    }
  });
});
