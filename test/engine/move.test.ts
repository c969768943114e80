import { execFileSync } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import zlib from 'node:zlib';
import { expect } from 'chai';
import { strFromU8, unzipSync, zipSync } from 'fflate';
import { moveFiles, undoChanges, type MoveReport } from '../../src/engine/services/moveFiles';
import { runCommand } from '../fixtures/commandLine';
import { tempFolder } from '../fixtures/temp';

const PAGE = `<!doctype html>
<html xmlns:f="http://fernhollow.example/ns">
<link rel="canonical" href="http://www.fernhollow.example/">
<a href="http://fernhollow.example/visit/">Visit</a>
<img src="//fernhollow.example/fern.jpg">
<script>var home = "http:\\/\\/fernhollow.example\\/";</script>
<a href="https://share.example/?u=http%3A%2F%2Ffernhollow.example%2F">Share</a>
<a href="http://moss.example/">Moss</a>
`;

describe('moving files to https', function () {
  this.timeout(180_000);
  let folder: string;
  let remove: () => void;
  beforeEach(() => ({ folder, remove } = tempFolder('move')));
  afterEach(() => remove());
  const at = (...parts: string[]) => path.join(folder, ...parts);
  const makeSite = () => {
    fs.mkdirSync(at('site/css'), { recursive: true });
    fs.writeFileSync(at('site/index.html'), PAGE);
    fs.writeFileSync(at('site/css/site.css'), 'a{background:url(http://www.fernhollow.example/a.png)}');
    fs.writeFileSync(at('site/map.pdf'), '%PDF-1.4 \0 http://fernhollow.example/');
    fs.writeFileSync(at('site/fern.jpg'), Buffer.from([0xff, 0xd8, 0, 1, 2]));
    fs.symlinkSync('/etc/passwd', at('site/link'));
  };
  const move = (more: Partial<Parameters<typeof moveFiles>[0]>) =>
    moveFiles({ source: at('site'), from: ['fernhollow.example'], to: 'https', ...more });
  const forms = (report: MoveReport) => report.totals.forms;

  it('counts by form and file in a dry run, and writes nothing', async () => {
    makeSite();
    const report = await move({});
    expect(forms(report)).to.deep.equal({
      'http://host': 2,
      'http://www.host': 2,
      '//host': 1,
      escaped: 1,
      'percent-encoded': 1,
    });
    expect(report.totals).to.include({ changes: 6, refused: 1 });
    expect(report.files.map((f) => [f.path, f.changes, f.refused])).to.deep.equal([
      ['css/site.css', 1, 0],
      ['index.html', 5, 1],
    ]);
    expect(report.places.find((p) => p.refused)).to.include({ path: 'index.html', line: 2, column: 16 });
    expect(report.notExamined.map((n) => n.path)).to.have.members(['map.pdf', 'link']);
    expect(fs.readdirSync(folder)).to.deep.equal(['site']);
  });

  it('writes a changed copy, a diff that applies, an undo map that leads back; a second dry run counts none', async () => {
    makeSite();
    const report = await move({ out: at('copy'), patch: at('move.diff') });
    expect(report.undo).to.equal(`${at('copy')}.undo.jsonl`);
    expect(fs.readFileSync(at('site/index.html'), 'utf8')).to.equal(PAGE);
    const after = fs.readFileSync(at('copy/index.html'), 'utf8');
    expect(after).to.contain('xmlns:f="http://fernhollow.example/ns"').and.contain('href="http://moss.example/"');
    expect(after.match(/https/g)).to.have.length(6);
    expect(fs.readFileSync(at('copy/fern.jpg'))).to.deep.equal(fs.readFileSync(at('site/fern.jpg')));
    const again = await moveFiles({ source: at('copy'), from: ['fernhollow.example'], to: 'https' });
    expect(again.totals.changes).to.equal(0);
    // The diff makes the same of the original.
    execFileSync('git', ['apply', '--directory=site', '--unsafe-paths', at('move.diff')], { cwd: folder });
    expect(fs.readFileSync(at('site/index.html'), 'utf8')).to.equal(after);
    expect(fs.readFileSync(at('site/css/site.css'))).to.deep.equal(fs.readFileSync(at('copy/css/site.css')));
    const lines = fs
      .readFileSync(report.undo ?? '', 'utf8')
      .trim()
      .split('\n')
      .slice(1)
      .map((l) => JSON.parse(l) as { path: string; at: number; now: string; was: string });
    expect(
      Buffer.from(
        undoChanges(
          Buffer.from(after),
          lines.filter((l) => l.path === 'index.html'),
        ),
      ).toString(),
    ).to.equal(PAGE);
  });

  it('numbers lines and columns of many places, also of several on one line', async () => {
    fs.mkdirSync(at('site'));
    const lines = Array.from({ length: 300 }, (_, i) =>
      i % 3 === 0 ? 'nothing' : `${'x'.repeat(i % 7)} http://fernhollow.example/ http://fernhollow.example/`,
    );
    fs.writeFileSync(at('site/a.html'), lines.join('\n'));
    const found = (await move({})).places.map((p) => `${p.line}:${p.column}`);
    const meant = lines.flatMap((l, i) => [...l.matchAll(/http:/g)].map((m) => `${i + 1}:${m.index + 1}`));
    expect(found).to.deep.equal(meant);
  });

  it('says so when the diff cannot be written, and leaves nothing behind', async () => {
    makeSite();
    const error = await move({ out: at('copy'), patch: at('nowhere/move.diff') }).then(
      () => undefined,
      (e: Error) => e,
    );
    expect(error?.message).to.contain('cannot be written');
    expect(fs.readdirSync(folder)).to.deep.equal(['site']);
  });

  it('never writes over anything, nor into what it reads', async () => {
    makeSite();
    fs.writeFileSync(at('there'), 'mine');
    for (const out of [at('there'), at('site'), at('site/copy')]) {
      const error = await move({ out }).then(
        () => undefined,
        (e: Error) => e,
      );
      expect(error?.message, out).to.match(/already|cannot lie/);
    }
    expect(fs.readFileSync(at('there'), 'utf8')).to.equal('mine');
    expect(fs.readdirSync(folder).sort()).to.deep.equal(['site', 'there']);
  });

  it('moves zips and gzipped dumps', async () => {
    fs.writeFileSync(at('site.zip'), zipSync({ 'a/index.html': Buffer.from(PAGE), '../evil.html': Buffer.from(PAGE) }));
    const report = await move({ source: at('site.zip'), out: at('new.zip') });
    expect(report.notExamined).to.deep.equal([{ path: '../evil.html', why: 'its name leads out of the zip' }]);
    const files = unzipSync(fs.readFileSync(at('new.zip')));
    expect(Object.keys(files)).to.deep.equal(['a/index.html']);
    expect(strFromU8(files['a/index.html'] as Uint8Array)).to.contain('href="https://fernhollow.example/visit/"');

    const row = `INSERT INTO options VALUES (1,'a:1:{s:4:\\"home\\";s:26:\\"http://fernhollow.example/\\";}');\n`;
    fs.writeFileSync(at('garden.sql.gz'), zlib.gzipSync('-- MySQL dump\n' + row.repeat(50_000)));
    const dump = await move({ source: at('garden.sql.gz'), out: at('garden.sql') });
    expect(dump.totals).to.include({ changes: 50_000, lengths: 50_000 });
    expect(dump.placesLeftOut).to.equal(40_000);
    expect(fs.readFileSync(at('garden.sql'), 'utf8')).to.equal(
      '-- MySQL dump\n' + row.replace('s:26', 's:27').replace('http:', 'https:').repeat(50_000),
    );
  });

  it('is a command that wants to be told where to', async () => {
    makeSite();
    expect((await runCommand('move', at('site'), '--from', 'fernhollow.example')).code).to.equal(2);
    expect((await runCommand('move', at('nowhere'), '--from', 'fernhollow.example', '--dry-run')).code).to.equal(3);
    expect((await runCommand('move', at('site'), '--from', 'a b', '--dry-run')).err).to.contain('is not a host name');
    const { code, out } = await runCommand(
      'move',
      at('site'),
      '--from',
      'www.fernhollow.example',
      '--dry-run',
      '--json',
    );
    expect(code).to.equal(0);
    expect((JSON.parse(out) as MoveReport).totals.changes).to.equal(6);
  });
});
