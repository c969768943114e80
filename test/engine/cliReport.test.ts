import { expect } from 'chai';
import fs from 'node:fs';
import path from 'node:path';
import { readSheet } from 'read-excel-file/node';
import { projectRoot } from '../../src/engine/store/store';
import { runCommand as run } from '../fixtures/commandLine';
import { tempFolder } from '../fixtures/temp';

const glasshouse = path.join(projectRoot(), 'demo/captures/glasshouse-phone.har.gz');

describe('cli report', () => {
  const temp = tempFolder('report');
  after(temp.remove);
  const report = async (reader: string, format: string) => {
    const file = path.join(temp.folder, `${reader}.${format}`);
    const r = await run('report', glasshouse, '--reader', reader, '--format', format, '-o', file);
    expect(r.code, r.err).to.equal(0);
    return fs.readFileSync(file);
  };

  it('writes the owner’s report as one file with pictures and fonts inside', async () => {
    const text = (await report('owner', 'html')).toString('utf8');
    expect(text).to.match(/waits [\d.]+ s for the main picture/);
    expect(text).to.contain('src="data:image/jpeg;base64,').and.to.contain('src:url("data:font/woff2;base64,');
    expect(text).not.to.match(/(src|href)="https?:/);
  });

  it('prints a tagged PDF with an outline', async function () {
    this.timeout(180_000);
    const pdf = (await report('owner', 'pdf')).toString('latin1');
    expect(pdf).to.match(/^%PDF-1\./);
    expect(pdf).to.contain('/MarkInfo').and.to.contain('/StructTreeRoot').and.to.contain('/Outlines');
    expect([...pdf.matchAll(/\/Type \/Page\b/g)].length).to.be.within(2, 6);
  });

  it('writes tasks and the whole audit for other programs', async () => {
    expect((await report('fixer', 'md')).toString('utf8')).to.contain('```diff');
    expect((await report('fixer', 'csv')).toString('utf8')).to.match(/^task,owner/);
    const json = JSON.parse((await report('auditor', 'json')).toString('utf8')) as {
      findings: unknown[];
      heroPaint: { nowMs: number };
    };
    expect(json.findings.length).to.be.above(3);
    await report('auditor', 'xlsx');
    const rows = await readSheet(path.join(temp.folder, 'auditor.xlsx'), 'Findings');
    expect(rows).to.have.length(json.findings.length + 1);
  });

  it('says what a reader’s report comes as, and takes files or a site', async () => {
    const out = path.join(temp.folder, 'x');
    const wrong = await run('report', glasshouse, '--reader', 'owner', '--format', 'csv', '-o', out);
    expect(wrong.code).to.equal(2);
    expect(wrong.err).to.contain('comes as pdf, html, json');
    expect((await run('report', '--reader', 'owner', '-o', out)).code).to.equal(2);
    expect((await run('report', '--site', '9', '--data', temp.folder, '--reader', 'owner', '-o', out)).code).to.equal(
      3,
    );
    expect(fs.existsSync(out)).to.equal(false);
  });
});
