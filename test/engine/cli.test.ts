import { expect } from 'chai';
import { execFileSync, spawn } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { filePathOf } from '../../src/core/handover/filePath';
import type { Audit } from '../../src/core/plan/audit';
import { auditHar } from '../../src/engine/services/importHar';
import { openStore, projectRoot } from '../../src/engine/store/store';
import { runCommand as run, runProcess } from '../fixtures/commandLine';
import { har, PAGE } from '../fixtures/har';
import { tempFolder } from '../fixtures/temp';

const glasshouse = path.join(projectRoot(), 'demo/captures/glasshouse-phone.har.gz');
const GLASSHOUSE = 'https://www.fernhollow.example/glasshouse/';

describe('cli', () => {
  const temp = tempFolder('cli');
  after(temp.remove);

  it('audits a capture as one JSON document on standard output', () => {
    const r = runProcess('audit', glasshouse, '--json', '--visitor', 'phone-busy');
    expect(r.code).to.equal(0);
    const report = JSON.parse(r.out) as {
      version: number;
      captures: { page: string; hero: { url: string } }[];
      findings: { id: string }[];
      fixes: {
        kind: string;
        findings: string[];
        edits: unknown[];
        forecasts: { visitor: string; change: { lcpMs: number }; range: { lcpMs: number[] } }[];
      }[];
    };
    expect(report.version).to.equal(1);
    expect(report.captures[0]?.page).to.equal(GLASSHOUSE);
    expect(report.captures[0]?.hero.url).to.match(/glasshouse-dawn\.jpg$/);
    const ids = new Set(report.findings.map((f) => f.id));
    for (const fix of report.fixes) {
      expect(fix.findings.every((id) => ids.has(id))).to.equal(true);
      expect(fix.forecasts.map((f) => f.visitor)).to.deep.equal(['phone-busy']);
    }
    expect(report.fixes.find((f) => f.kind === 'hero-eager')?.edits).to.have.length.above(0);
  });

  it('audits as CSV, SARIF and text', async () => {
    expect((await run('audit', glasshouse, '--csv')).out).to.match(/^page,concern,harm/);
    expect((JSON.parse((await run('audit', glasshouse, '--sarif')).out) as { version: string }).version).to.equal(
      '2.1.0',
    );
    expect((await run('audit', glasshouse)).out).to.contain('Fixes, best first:');
  });

  it('forecasts fixes together and each alone', async () => {
    const r = await run(
      'forecast',
      glasshouse,
      '--visitor',
      'screen=400x860@2.5,touch,rtt=150,down=2000,up=800,cpu=4',
      '--fix',
      'image-resize * bytes=40000',
      '--fix',
      'hero-preload *',
      '--each',
      '--json',
    );
    expect(r.code, r.err).to.equal(0);
    const a = JSON.parse(r.out) as {
      before: { lcpMs: number };
      after: { lcpMs: number };
      each: { fix: { kind: string }; change: { lcpMs: number } }[];
      trust: { recordedLcpMs: number };
      why: string[];
    };
    expect(a.after.lcpMs).to.be.below(a.before.lcpMs - 500);
    expect(new Set(a.each.map((e) => e.fix.kind))).to.deep.equal(new Set(['image-resize', 'hero-preload']));
    expect(a.trust.recordedLcpMs).to.be.above(0);
    expect(a.why.length).to.be.above(0);
  });

  it('writes a re-timed HAR with the fixes applied', async () => {
    const out = path.join(temp.folder, 'fixed.har');
    expect(
      (await run('forecast', glasshouse, '--visitor', 'phone-busy', '--fix', 'hero-preload *', '--har', out)).code,
    ).to.equal(0);
    const file = JSON.parse(fs.readFileSync(out, 'utf8')) as {
      log: { version: string; entries: { request: { url: string }; time: number; startedDateTime: string }[] };
    };
    expect(file.log.version).to.equal('1.2');
    const again = await run('audit', out, '--json');
    expect((JSON.parse(again.out) as { captures: { page: string }[] }).captures[0]?.page).to.equal(GLASSHOUSE);
  });

  const codes: [string, string[], number, RegExp][] = [
    ['no command', [], 2, /Usage/],
    ['an unknown option', ['audit', '--colour'], 2, /unknown option/],
    ['a file that is not there', ['audit', 'none.har'], 3, /no such file/],
    ['a visitor nobody knows', ['audit', glasshouse, '--visitor', 'tablet'], 3, /no visitor "tablet"/],
    [
      'a kind of fix nobody knows',
      ['forecast', glasshouse, '--visitor', 'desktop', '--fix', 'magic *'],
      3,
      /no kind of fix "magic"/,
    ],
    [
      'a target that is not there',
      ['forecast', glasshouse, '--visitor', 'desktop', '--fix', 'image-resize https://a.example/x.jpg'],
      3,
      /No load of this page/,
    ],
    [
      'a page that is not there',
      ['forecast', glasshouse, '--visitor', 'desktop', '--page', 'https://a.example/'],
      3,
      /no such page/,
    ],
    [
      'a page that does not answer',
      ['record', 'http://127.0.0.1:9/', '--allow-private', '-o', '/dev/null'],
      4,
      /could not be opened/,
    ],
  ];
  for (const [name, args, code, text] of codes) {
    it(`ends with ${code} for ${name}`, async () => {
      const r = await run(...args);
      expect(r.err + r.out).to.match(text);
      expect(r.code).to.equal(code);
    });
  }

  it('names the JSON path of what is wrong in a file', async () => {
    const file = path.join(temp.folder, 'bad.har');
    fs.writeFileSync(
      file,
      JSON.stringify(har([{ url: PAGE, body: 'x' }])).replace(
        '"startedDateTime":"2026-11-12T10:00:00.000Z","time"',
        '"startedDateTime":"soon","time"',
      ),
    );
    const r = await run('audit', file);
    expect(r.code).to.equal(3);
    expect(r.err).to.contain('$.log.entries[0].startedDateTime');
  });

  it('writes the files as fixes leave them, and the same as a diff that git takes', async () => {
    const fixed = path.join(temp.folder, 'fixed');
    const patch = path.join(temp.folder, 'fixes.patch');
    const r = await run('audit', glasshouse, '--visitor', 'phone-busy', '--edits', fixed, '--patch', patch);
    expect(r.code, r.err).to.equal(0);
    expect(r.err).to.match(/\d+ files changed, \d+ of them by edits of source/);
    expect(r.err).to.contain('other pages may use these rules');
    const diff = fs.readFileSync(patch, 'utf8');
    const [first] = await auditHar(fs.readFileSync(glasshouse), glasshouse);
    const { audit } = first as { audit: Audit };
    const originals = path.join(temp.folder, 'originals');
    const named = [...diff.matchAll(/^--- a\/(.*)$/gm)].map((m) => m[1] as string);
    expect(named).to.include('www.fernhollow.example/glasshouse/index.html');
    for (const { url } of audit.page.capture.loads) {
      const load = audit.page.loadOf(url);
      const bytes = load && audit.page.bodies.bytes(load);
      const file = path.join(originals, filePathOf(url));
      if (!bytes || !named.includes(filePathOf(url))) continue;
      fs.mkdirSync(path.dirname(file), { recursive: true });
      fs.writeFileSync(file, bytes);
    }
    execFileSync('git', ['apply', '--whitespace=nowarn', patch], { cwd: originals });
    for (const name of named)
      expect(
        fs.readFileSync(path.join(originals, name)).equals(fs.readFileSync(path.join(fixed, name))),
        name,
      ).to.equal(true);
    // Pictures are written anew at their displayed size.
    const before = audit.page.loadOf('https://media.fernhollow.example/p/glasshouse-dawn.jpg');
    const after = fs.statSync(path.join(fixed, 'media.fernhollow.example/p/glasshouse-dawn.jpg')).size;
    expect(after).to.be.within(1000, (before?.bodyBytes ?? 0) / 2);
  });

  it('puts the demo into a database', async () => {
    // The very command that npm test has run for the tests that need the demo; it takes half a minute.
    const made = process.env.KEEN_LENS_TEST_DEMO;
    const printed = made
      ? fs.readFileSync(path.join(made, 'printed.json'), 'utf8')
      : (await run('demo', '--data', temp.folder, '--json')).out;
    expect(JSON.parse(printed)).to.include({ captures: 67 });
    const store = await openStore(made ?? temp.folder);
    const { captures } = await store
      .selectFrom('captures')
      .select((db) => db.fn.countAll<number>().as('captures'))
      .executeTakeFirstOrThrow();
    await store.destroy();
    expect(captures).to.equal(67);
  });

  it('serves the application with a data folder of its own until it is told to stop', async () => {
    const data = path.join(temp.folder, 'served');
    const child = spawn(process.execPath, [
      path.join(projectRoot(), 'bin/keen-lens.mjs'),
      'serve',
      '--port',
      '4391',
      '--data',
      data,
    ]);
    const address = await new Promise<string>((done) => {
      child.stdout.on('data', (text: Buffer) => {
        const found = /http:\/\/[\d.:]+/.exec(text.toString());
        if (found) done(found[0]);
      });
    });
    expect(await (await fetch(`${address}/api/health`)).json()).to.deep.equal({ ok: true, sites: 0 });
    expect(fs.existsSync(path.join(data, 'keen-lens.db'))).to.equal(true);
    const ended = new Promise((done) => child.once('exit', done));
    child.kill('SIGTERM');
    await ended;
  });

  it('does not serve beyond this machine without a password', async () => {
    const r = await run('serve', '--host', '0.0.0.0');
    expect(r.code).to.equal(3);
    expect(r.err).to.contain('KEEN_LENS_PASSWORD');
  });

  it('shows an example in the help of every command', async () => {
    for (const c of ['record', 'audit', 'forecast', 'serve', 'demo'])
      expect((await run(c, '--help')).out, c).to.match(/\nExamples?:\n/);
  });

  it('says what is wrong with how a sweep was asked for', async () => {
    const data = path.join(temp.folder, 'sweep');
    const home = 'http://127.0.0.1:9/';
    const sweep = (...more: string[]) => run('sweep', home, '--data', data, '--captures', '0', ...more);
    expect((await run('sweep')).code).to.equal(2);
    expect((await sweep('--preset', 'rude')).code).to.equal(2);
    expect((await sweep('--max-pages', '0')).code).to.equal(2);
    const none = await sweep('--no-links', '--no-sitemaps');
    expect([none.code, none.err]).to.satisfy(([c, e]: [number, string]) => c === 3 && /no source of pages/.test(e));
    const resumed = await sweep('--resume');
    expect(resumed.code).to.equal(3);
    expect(resumed.err).to.match(/No interrupted sweep of this site can be resumed/);
    const list = path.join(temp.folder, 'list.csv');
    fs.writeFileSync(list, 'name,page\nFern,/fern/\n');
    expect((await sweep('--list', list, '--list-column', 'address')).err).to.match(/It has: name, page/);
    const dead = await sweep('--preset', 'own-server', '--no-robots', '--json');
    expect(dead.code).to.equal(4);
    expect(JSON.parse(dead.out)).to.include({ state: 'failed' });
    expect(dead.err).to.match(/No page could be fetched.*refused/);
  });
});
