import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import path from 'node:path';
import { chromium } from 'playwright-core';
import { browserSwitches, findChromium } from '../../src/engine/record/chromium';
import { auditHar } from '../../src/engine/services/importHar';
import { forecast } from '../../src/core/plan/forecast';
import { VISITORS, type Visitor } from '../../src/core/load/visitors';
import { runCommand as run } from '../fixtures/commandLine';
import { tempFolder } from '../fixtures/temp';

const FILES: Readonly<Record<string, readonly [string, string]>> = {
  '/beds/': [
    'text/html; charset=utf-8',
    '<!doctype html><html lang="en"><head><title>Beds</title><link rel="stylesheet" href="/css/site.css"><style>p{color:#123}</style><script src="/js/menu.js"></script></head><body><h1>Käsebeet</h1><img src="/p/bed.svg" width="600" height="400" alt="A bed"></body></html>',
  ],
  '/css/site.css': ['text/css', 'h1{font-size:40px;background:url(/p/leaf.svg)}'],
  '/js/menu.js': ['text/javascript', 'window.menu = 1;'],
  '/p/bed.svg': [
    'image/svg+xml',
    '<svg xmlns="http://www.w3.org/2000/svg" width="600" height="400"><rect width="600" height="400"/></svg>',
  ],
  '/p/leaf.svg': ['image/svg+xml', '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>'],
};

describe('engine: archives that other programs made', () => {
  const temp = tempFolder('archives');
  const server = http.createServer((request, response) => {
    const file = FILES[request.url ?? ''];
    response.writeHead(file ? 200 : 404, { 'content-type': file?.[0] ?? 'text/plain' });
    response.end(file?.[1] ?? 'Not here.');
  });
  let origin = '';
  before(async () => {
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });
  after(async () => {
    await new Promise((done) => server.close(done));
    temp.remove();
  });

  async function examine(bytes: Uint8Array, scripts: boolean): Promise<void> {
    const [one, ...rest] = await auditHar(bytes, 'archive');
    expect(rest).to.deep.equal([]);
    const audit = one?.audit;
    if (!audit) throw new Error('nothing was read');
    const { capture } = audit.page;
    expect(capture.page).to.equal(`${origin}/beds/`);
    const paths = capture.loads.map((l) => new URL(l.url).pathname).sort();
    expect(paths).to.include.members([
      '/beds/',
      '/css/site.css',
      '/p/bed.svg',
      ...(scripts ? ['/js/menu.js', '/p/leaf.svg'] : []),
    ]);
    expect(audit.page.document?.text).to.contain('Käsebeet');
    const made = forecast(audit.graph, audit.fixes, VISITORS[0] as Visitor);
    expect(made.before.lcpMs).to.be.within(100, 20_000);
  }

  it('a WARC of wget, plain and with every record compressed', async function () {
    if (spawnSync('wget', ['--version']).status !== 0) return this.skip();
    for (const compressed of [false, true]) {
      const file = path.join(temp.folder, compressed ? 'packed' : 'plain');
      const done = await new Promise<number | null>((ended) => {
        void import('node:child_process').then(({ spawn }) =>
          spawn(
            'wget',
            [
              ...['-q', '-p', '-P', path.join(temp.folder, 'files'), `--warc-file=${file}`],
              ...(compressed ? [] : ['--no-warc-compression']),
              `${origin}/beds/`,
            ],
            { cwd: temp.folder, stdio: 'ignore' },
          ).on('exit', ended),
        );
      });
      expect(done).to.equal(0);
      await examine(fs.readFileSync(compressed ? `${file}.warc.gz` : `${file}.warc`), true);
    }
  });

  it('an MHTML that Chromium saved, also by the command line', async function () {
    this.timeout(180_000);
    const browser = await chromium.launch({
      executablePath: findChromium(),
      headless: true,
      args: browserSwitches([]),
    });
    let data: string;
    try {
      const page = await browser.newPage();
      await page.goto(`${origin}/beds/`);
      const session = await page.context().newCDPSession(page);
      ({ data } = await session.send('Page.captureSnapshot', { format: 'mhtml' }));
    } finally {
      await browser.close();
    }
    await examine(Buffer.from(data), false);
    const file = path.join(temp.folder, 'beds.har');
    fs.writeFileSync(file, data);
    const told = JSON.parse((await run('audit', file, '--json')).out) as {
      captures: { page: string }[];
      notExamined: { what: string }[];
    };
    expect(told.captures[0]?.page).to.equal(`${origin}/beds/`);
    expect(JSON.stringify(told.notExamined)).to.contain('MHTML');
  });
});
