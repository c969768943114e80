import { expect } from 'chai';
import fs from 'node:fs';
import sharp from 'sharp';
import type { Browser, Page } from 'playwright-core';
import { changeOfRuns, heldOf, samplesOfRuns, type Visited } from '../../src/core/proof/proof';
import type { MeasuredLoad } from '../../src/core/proof/measuredLoad';
import type { Proof } from '../../src/engine/services/proveFixes';
import { addProof } from '../../src/engine/store/proofs';
import { openStore } from '../../src/engine/store/store';
import { openAwake, untilAwake } from '../fixtures/awake';
import { askApi } from '../fixtures/jobs';
import { startBrowser, startDemo, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

const TALKS = 'https://www.fernhollow.example/talks/';
const GROUP = 'text-compress|www.fernhollow.example';
const runs = (lcpMs: number): Visited[] =>
  [0, 40, -30].map((off) => ({ fcpMs: 900 + off, lcpMs: lcpMs + off, loadMs: 5000 + off, cls: 0.01, bytes: 700_000 }));

/** A proof as one of the demo's pages might have, with as much won as is said. */
function proofOf(page: string, lcpMs: number, more: Partial<Proof> = {}): Proof {
  const change = changeOfRuns(runs(4200), runs(4200 + lcpMs));
  const forecast = {
    change: { fcpMs: 0, lcpMs: -1500, loadMs: 0, bytes: -100_000 },
    range: { fcpMs: [-100, 100] as const, lcpMs: [-1800, -1200] as const, loadMs: [-200, 200] as const },
  };
  return {
    version: '1',
    browser: 'Chromium',
    provedAt: '2026-11-27T10:00:00.000Z',
    page,
    visitor: 'phone-busy',
    link: 'userspace',
    runs: 3,
    fixes: [],
    before: samplesOfRuns(runs(4200)),
    after: samplesOfRuns(runs(4200 + lcpMs)),
    change,
    forecast,
    held: heldOf(change, forecast),
    hero: { before: '', after: '' },
    firstScreenAlike: 0.99,
    firstScreenItself: 1,
    unanswered: [],
    newErrors: [],
    differs: [],
    ...more,
  };
}

/** A visit of the page itself and of one script. */
const loadOf = (lcpMs: number): MeasuredLoad => ({
  ...(runs(lcpMs)[0] as Visited),
  requests: [
    { url: TALKS, foundMs: 1, sentMs: 300, firstByteMs: 700, endMs: 800 },
    {
      url: `${TALKS.replace('/talks/', '')}/js/kit.js`,
      foundMs: 810,
      sentMs: 820,
      firstByteMs: 1300,
      endMs: lcpMs - 400,
    },
  ],
});

describe('ui: proofs and outcomes', function () {
  this.timeout(180_000);
  const temp = tempFolder('ui-proofs');
  let server: TestServer;
  let browser: Browser;
  let page: Page;
  let siteId = 0;
  let capture: { id: number; page: string; title: string };
  const errors: string[] = [];
  const keep = async (proof: Partial<Proof> & { lcpMs: number }, groups = [GROUP]) => {
    const { lcpMs, ...more } = proof;
    const picture = (background: string) =>
      sharp({ create: { width: 40, height: 80, channels: 3, background } })
        .jpeg()
        .toBuffer();
    const frames = async (background: string) => [
      { atMs: 400, picture: await picture('#fff') },
      { atMs: 1800, picture: await picture(background) },
    ];
    const store = await openStore(temp.folder);
    await addProof(
      store,
      {
        jobId: 1,
        siteId,
        sweepId: null,
        captureId: capture.id,
        page: capture.page,
        title: capture.title,
        device: 'phone',
        visitor: 'phone-busy',
        visitorName: 'Phone, busy mobile',
        groups: groups.map((id) => ({ id, title: 'Compress text of www.fernhollow.example' })),
      },
      {
        proof: proofOf(capture.page, lcpMs, more),
        screens: { before: await picture('#a43'), after: await picture('#064') },
        film: { before: await frames('#a43'), after: await frames('#064') },
        loads: { before: loadOf(4200), after: loadOf(4200 + lcpMs) },
      },
    );
    await store.destroy();
  };

  before(async () => {
    server = await startDemo(temp.folder);
    browser = await startBrowser();
    siteId = (await askApi<{ sites: { id: number }[] }>(`${server.url}/api/sites`)).value.sites[0]?.id ?? 0;
    const site = (await askApi<{ sweeps: { id: number }[] }>(`${server.url}/api/sites/${siteId}`)).value;
    const overview = await askApi<{ pages: { row: { id: number; page: string; title: string } }[] }>(
      `${server.url}/api/sweeps/${site.sweeps[0]?.id}/overview?device=phone`,
    );
    const own = overview.value.pages.find((p) => p.row.page.endsWith('/talks/'))?.row;
    capture = { id: own?.id ?? 0, page: own?.page ?? '', title: own?.title ?? '' };
  });
  after(async () => {
    await browser.close();
    await server.stop();
    temp.remove();
  });
  beforeEach(async () => {
    page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    page.setDefaultTimeout(80_000);
    page.on('pageerror', (e) => errors.push(e.message));
  });
  afterEach(async () => {
    await page.context().close();
    expect(errors.splice(0).join('\n')).to.equal('');
  });
  const open = (path: string) => openAwake(page, `${server.url}/sites/${siteId}${path}`);

  it('asks for fixes first, then starts a proof of the bench by keyboard, shows how far it is, and cancels it', async () => {
    await open('/proofs');
    await page.getByText(/Put fixes on the bench, then prove them here/).waitFor();
    await open('/plan');
    await page.getByRole('button', { name: /Add all worthwhile fixes/ }).click();
    await page.waitForURL(/bench=/);
    await page.locator('.bench-proof').getByRole('link', { name: 'Prove' }).click();
    await page.getByText(/To be proved for Phone, busy mobile:/).waitFor();
    await untilAwake(page);
    await page.getByLabel('Runs of each side').selectOption('15');
    await page.getByRole('button', { name: 'Prove', exact: true }).focus();
    await page.keyboard.press('Enter');
    await page.getByText(/proving: \d+ of \d+|queued/).waitFor();
    await page.getByRole('button', { name: 'Cancel' }).click();
    await page.getByText(/To be proved for/).waitFor();
    expect(await page.getByRole('heading', { name: 'Proofs so far' }).count()).to.equal(0);
  });

  it('says in words how a promise came out, on one scale, with both loads played and in a table', async () => {
    await keep({ lcpMs: -1500 });
    await open('/proofs');
    await page.getByText('1 of 1 proof measured at least what was promised.').waitFor();
    await page.getByRole('link', { name: capture.title }).click();
    await page.getByRole('heading', { name: /Promised 1\.2 to 1\.8 s less; measured 1\.5 s less\. Held\./ }).waitFor();
    expect(await page.locator('.proof-scale svg').getAttribute('aria-label')).to.match(
      /Hero paint \(LCP\): promised saves 1\.5 s .*measured saves 1\.5 s/,
    );
    expect(await page.getByRole('row', { name: /Hero paint \(LCP\)/ }).innerText()).to.match(/4\.2 s\s+2\.7 s/);
    const film = page.getByRole('region', { name: 'How both come up' });
    await untilAwake(page);
    await film.getByRole('button', { name: 'Show 1.0 s' }).first().click();
    expect(await film.locator('.film-time').innerText()).to.equal('1.0 s');
    await film.getByRole('button', { name: 'Play' }).click();
    await film.getByRole('button', { name: 'Play' }).waitFor();
    expect(await film.locator('.film-time').innerText()).to.equal('2.0 s');
    await page.getByText('The first screen looks the same: 99 % alike').waitFor();
    const load = page.getByRole('region', { name: 'How the load unfolds' });
    await load.getByRole('button', { name: 'Show the requests of a typical visit' }).click();
    await load
      .getByRole('group', { name: /As it is: first paint 900 ms, hero paint 4\.2 s.*With the fixes: .*2\.7 s/ })
      .waitFor();
    await load.getByText('As a table').click();
    expect(
      await load
        .getByRole('row', { name: /kit\.js/ })
        .first()
        .innerText(),
    ).to.match(/810 ms.*3\.8 s/);
    await load.getByRole('button', { name: 'Forecast' }).click();
    await load.getByText('The same load as simulated for this visitor.').waitFor();
    expect(await load.getByRole('group', { name: /hero paint 4\.2 s/ }).count()).to.equal(0);
  });

  it('marks a fix on the bench and in the plan whose proof breaks the page or holds less, and says so in the tasks', async () => {
    await keep({ lcpMs: -1500, firstScreenAlike: 0.5, newErrors: ['menu is not defined'] });
    await open('/plan');
    await page.getByRole('button', { name: /Add all worthwhile fixes/ }).click();
    // Rows of other fixes may name it as what saves most of them already.
    const row = page.locator('.fix-table tr', { hasText: 'Compress text of www.fernhollow.example' }).first();
    await row.getByText(/proved: the first screen looks different with it/).waitFor();
    await page
      .locator('.bench-list')
      .getByText(/proved: the first screen looks different/)
      .waitFor();
    await row.getByRole('link', { name: 'prove alone' }).click();
    await page.getByRole('heading', { name: /The first screen looks different with the fixes/ }).waitFor();
    const link = await page.goto(`${server.url}/sites/${siteId}/plan?bench=`).then(() => page);
    await link.getByRole('button', { name: /Add all worthwhile fixes/ }).click();
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'Markdown' }).click(),
    ]);
    expect(fs.readFileSync((await download.path()) ?? '', 'utf8')).to.match(
      /Proved in a real browser: Promised .* looks different/,
    );
  });

  it('lets ranges follow five proofs of the site, and says so', async () => {
    const high = async () => {
      await open(`/plan`);
      await page.getByRole('button', { name: /Add all worthwhile fixes/ }).click();
      const label = await page.getByRole('img', { name: /Hero paint \(LCP\): now .*range/ }).getAttribute('aria-label');
      return label ?? '';
    };
    const before = await high();
    for (let i = 0; i < 4; i++) await keep({ lcpMs: -400 });
    const after = await high();
    await page.getByText(/Ranges are wider by \d+ %: \d+ proofs of this site ask for it/).waitFor();
    expect(after).not.to.equal(before);
    await page.getByRole('link', { name: 'How far can I trust this?' }).click();
    await page.getByText(/6 proofs of this site: the median forecast is off by/).waitFor();
  });

  it('deletes a proof', async () => {
    await open('/proofs');
    const rows = page.locator('section[aria-label="Proofs"] tbody tr');
    await rows.first().waitFor();
    const n = await rows.count();
    await page
      .getByRole('button', { name: /^Delete the proof of/ })
      .first()
      .click();
    await page.waitForFunction(
      (was) => document.querySelectorAll('section[aria-label="Proofs"] tbody tr').length < was,
      n,
    );
  });

  it('tells what won less and more than promised, and what came back', async () => {
    await open('/plan');
    await page.getByRole('button', { name: 'After the sweep of 1 October', exact: true }).click();
    const outcome = page.getByRole('region', { name: 'Outcome' });
    const verdict = (fix: RegExp) => outcome.getByRole('row', { name: fix }).first();
    await verdict(/widget/)
      .getByText('came back')
      .waitFor();
    await verdict(/atlas\.js/)
      .getByText('won less than promised')
      .waitFor();
    await verdict(/tour\.js/)
      .getByText('won more than promised')
      .waitFor();
    // Both sweeps since have looked.
    expect(
      await outcome.getByRole('table', { name: 'Promised and measured over time' }).locator('tbody tr').count(),
    ).to.equal(2);
  });

  it('holds done fixes of a plan to account', async () => {
    await open('/plan');
    await page.getByRole('button', { name: 'After the sweep of 5 November', exact: true }).click();
    const outcome = page.getByRole('region', { name: 'Outcome' });
    await outcome.getByText(/promised .* less, measured/).waitFor();
    await outcome.getByRole('row', { name: /Defer carousel\.js/ }).waitFor();
    await outcome.getByText('not done: the findings are still there').waitFor();
    await outcome.getByRole('button', { name: 'Check now' }).waitFor();
  });
});
