import { expect } from 'chai';
import fs from 'node:fs';
import type { Browser, Page } from 'playwright-core';
import { openAwake } from '../fixtures/awake';
import { HALF_HOME, serveHalfMoved, type HalfMoved } from '../fixtures/halfMoved';
import { askApi, jobEnd } from '../fixtures/jobs';
import { startBrowser, startDemo, startServer, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';
import type { JobRow } from '../../src/engine/store/jobs';

describe('ui of HTTPS coverage', function () {
  this.timeout(240_000);
  const temp = tempFolder('https-ui');
  let browser: Browser;
  let page: Page;
  const errors: string[] = [];
  before(async () => {
    browser = await startBrowser();
  });
  after(async () => {
    await browser.close();
    temp.remove();
  });
  beforeEach(async () => {
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true });
    page = await context.newPage();
    page.setDefaultTimeout(80_000);
    page.on('pageerror', (e) => errors.push(e.message));
  });
  afterEach(async () => {
    await page.context().close();
    expect(errors.splice(0).join('\n')).to.equal('');
  });

  describe('on the demo', () => {
    let server: TestServer;
    before(async () => {
      server = await startDemo(`${temp.folder}/demo`);
    });
    after(() => server.stop());
    const open = (query = '') => openAwake(page, `${server.url}/sites/1/concerns/https${query}`);

    it('answers at a look where every way in leads, and by which hops', async () => {
      await open();
      await page.getByText(/^5 of 26 entrances end at a secure address/).waitFor();
      const ways = page.locator('.entrance-paths svg');
      expect(await ways.getAttribute('aria-label')).to.match(
        /26 entrances, 21 of them with faults.*end at https:\/\/www\.fernhollow\.example\//,
      );
      expect(await page.locator('.entrance-paths .entry.bad').count()).to.equal(21);
      await page
        .getByRole('button', { name: /^loop 2$/ })
        .first()
        .click();
      await page.getByRole('cell', { name: 'http://newsletter.fernhollow.example/', exact: true }).waitFor();
      expect(page.url()).to.contain('verdict=loop');
      const certificates = await page.locator('.certificate-lines svg').getAttribute('aria-label');
      for (const fault of ['expired', 'self-signed', 'wrong name', 'incomplete chain', 'old protocol', 'ends soon'])
        expect(certificates).to.contain(fault);
    });

    it('gives every address one state, whose list opens by mouse and keyboard', async () => {
      await open();
      const legend = page.getByRole('region', { name: 'States of addresses' }).getByRole('listitem');
      const counts = (await legend.allInnerTexts()).map((t) => Number(/^\s*(\d+)/.exec(t)?.[1]));
      const total = Number(/^(\d+)/.exec(await page.getByText(/known addresses, each in one state/).innerText())?.[1]);
      expect(counts.reduce((a, b) => a + b, 0)).to.equal(total);
      await page.getByRole('button', { name: /redirects badly/ }).focus();
      await page.keyboard.press('Space');
      await page.locator('.coverage-list li').first().waitFor();
      expect(await page.locator('.coverage-list li').count()).to.equal(counts[5]);
      await page.getByRole('button', { name: 'template', exact: true }).click();
      await page.locator('svg .coverage').first().waitFor();
    });

    it('tells the fate of listed addresses and whether visits suffered', async () => {
      await open('?view=lists&moved=2026-10-20');
      await page.getByText(/^6,563 clicks after 8,441 before: 22 % fewer/).waitFor();
      await page.getByText(/moving day: \d+ clicks a day before, \d+ from then on/).waitFor();
      await page.getByRole('button', { name: 'index-state.tsv', exact: true }).click();
      await page.getByRole('button', { name: /missing$/ }).click();
      await page.getByText('The list says: Not found (404)').first().waitFor();
      const rows = page.getByRole('region', { name: 'Addresses of index-state.tsv' }).locator('tbody tr');
      await rows.nth(2).waitFor({ state: 'detached' });
      expect(await rows.count()).to.equal(2);
      const download = page.waitForEvent('download');
      await page.getByRole('link', { name: 'CSV', exact: true }).click();
      const csv = fs.readFileSync(await (await download).path(), 'utf8');
      expect(csv.trim().split('\r\n')).to.have.length(3);
    });

    it('says what is wrong with a list that has no address', async () => {
      await open('?view=lists');
      await page.getByLabel('Pasted addresses').fill('nothing to see');
      await page.getByRole('button', { name: 'Add what was pasted' }).click();
      await page.getByRole('alert').getByText('The list has no address in it that can be read.').waitFor();
    });

    it('deletes a list only after asking', async () => {
      await open('?view=lists');
      await page.getByLabel('Pasted addresses').fill('https://www.fernhollow.example/visit/');
      await page.getByRole('button', { name: 'Add what was pasted' }).click();
      await page.getByRole('button', { name: 'Delete pasted list' }).click();
      const dialog = page.getByRole('dialog');
      await dialog.getByText('This deletes the list with its 1 row.').waitFor();
      await dialog.getByRole('button', { name: 'Cancel' }).click();
      await dialog.waitFor({ state: 'detached' });
      await page.getByRole('button', { name: 'Delete pasted list' }).click();
      await dialog.getByRole('button', { name: 'Delete', exact: true }).click();
      await page.getByRole('button', { name: 'Delete pasted list' }).waitFor({ state: 'detached' });
    });

    it('writes rules with the pages chosen for missing ones', async () => {
      await open('?view=rules');
      await page.getByLabel('Redirect /opening-hours.php to').fill('/visit/');
      await page.getByRole('combobox', { name: 'Server' }).selectOption('caddy');
      await page.getByRole('button', { name: 'Write the rules' }).click();
      const rules = page.getByLabel('Rules', { exact: true });
      await rules.getByText('https://www.fernhollow.example/visit/').first().waitFor();
      expect(await rules.innerText())
        .to.contain('opening-hours\\.php')
        .and.contain('# Verify with');
      const download = page.waitForEvent('download');
      await page.getByRole('button', { name: 'Download redirects.caddy' }).click();
      expect((await download).suggestedFilename()).to.equal('redirects.caddy');
    });

    it('keeps owner, day and state of a step of the move', async () => {
      await open('?view=move');
      await page.getByText(/of 17 steps of the move are done/).waitFor();
      await page.getByLabel('Owner of: Prepare the redirect rules of the web server').fill('Ada');
      await page.keyboard.press('Tab');
      await page.getByLabel('State of: Prepare the redirect rules of the web server').selectOption('doing');
      await page.reload();
      await page.getByText(/of 17 steps of the move are done/).waitFor();
      expect(await page.getByLabel('Owner of: Prepare the redirect rules of the web server').inputValue()).to.equal(
        'Ada',
      );
      expect(await page.getByLabel('State of: Prepare the redirect rules of the web server').inputValue()).to.equal(
        'doing',
      );
    });
  });

  describe('on a site that moves', () => {
    let server: TestServer;
    let half: HalfMoved;
    let site = '';
    before(async () => {
      half = await serveHalfMoved(temp.folder);
      server = await startServer({ NODE_EXTRA_CA_CERTS: half.rootFile });
      const { value } = await askApi<{ id: number }>(`${server.url}/api/sites`, 'POST', { home: HALF_HOME });
      site = String(value.id);
      await askApi(`${server.url}/api/sites/${site}/settings`, 'PUT', {
        perSecond: 0,
        mapHosts: half.map,
        captures: { maxPages: 0 },
      });
      await sweep();
    });
    after(async () => {
      await server.stop();
      await half.close();
    });
    const sweep = async () => {
      const { value } = await askApi<JobRow>(`${server.url}/api/sites/${site}/sweeps`, 'POST', {});
      expect((await jobEnd(server.url, value.id)).state).to.equal('done');
    };

    it('plans the move, dry-runs it, carries it out on the files, and verifies it', async () => {
      await openAwake(page, `${server.url}/sites/${site}/concerns/https?view=move`);
      await page.getByText('✗ 3 of 4 entrances have faults.').waitFor();
      await page
        .getByLabel('Files of the site')
        .setInputFiles({ name: 'half.zip', mimeType: 'application/zip', buffer: Buffer.from(half.zip) });
      await page.getByRole('button', { name: 'Dry run' }).click();
      await page.getByText('half.zip: 4 addresses would change, 0 refused').waitFor();
      await page.getByRole('button', { name: 'Write a changed copy' }).click();
      await page.getByText('half.zip: 4 addresses changed, 0 refused').waitFor();
      const download = page.waitForEvent('download');
      await page.getByRole('link', { name: 'Changed copy' }).click();
      const copy = fs.readFileSync(await (await download).path());
      // A second dry run on the result counts none.
      await page
        .getByLabel('Files of the site')
        .setInputFiles({ name: 'copy.zip', mimeType: 'application/zip', buffer: copy });
      await page.getByRole('button', { name: 'Dry run' }).click();
      await page.getByText('copy.zip: 0 addresses would change, 0 refused').waitFor();
      half.move(copy);
      await sweep();
      await page.getByRole('button', { name: 'Probe again' }).click();
      await page.getByText('✓ All 4 lead to the secure address.').waitFor();
      await page.getByText('✓ No page uses an http:// address of the site.').waitFor();
      await page.getByRole('tab', { name: 'Entrances' }).click();
      await page.getByText(/^All 4 entrances end at a secure address/).waitFor();
    });
  });
});
