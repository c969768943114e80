import { expect } from 'chai';
import { unzipSync } from 'fflate';
import fs from 'node:fs';
import type { Browser, Page } from 'playwright-core';
import { openAwake } from '../fixtures/awake';
import type { JobRow } from '../../src/engine/store/jobs';
import { askApi } from '../fixtures/jobs';
import { startBrowser, startDemo, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

describe('ui and api: handover', function () {
  this.timeout(180_000);
  let server: TestServer;
  let browser: Browser;
  let page: Page;
  const data = tempFolder('handover');
  const report = (query: string) => fetch(`${server.url}/api/sites/1/report?${query}`);

  before(async () => {
    server = await startDemo(data.folder);
    browser = await startBrowser();
    page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    page.setDefaultTimeout(80_000);
  });
  after(async () => {
    await browser.close();
    await server.stop();
    data.remove();
  });

  it('shows each reader’s report as it will be, in a frame where nothing runs', async () => {
    await openAwake(page, `${server.url}/sites/1`);
    await page.getByRole('link', { name: 'Handover' }).click();
    const frame = page.frameLocator('iframe[title="Report for the owner"]');
    await frame.getByText(/waits [\d.]+ s for the main picture or text of an average page/).waitFor();
    expect(await page.locator('iframe').getAttribute('sandbox')).to.equal('');
    await page.getByRole('radio', { name: /Fixer/ }).focus();
    await page.keyboard.press('Space');
    await page.frameLocator('iframe[title="Report for the fixer"]').getByText('Done when:').first().waitFor();
    expect(page.url()).to.contain('reader=fixer');
  });

  it('writes reports in the language of the site, and refuses one that is not there', async () => {
    await openAwake(page, `${server.url}/sites/1/handover`);
    await page.locator('summary', { hasText: 'Firm, logo, language and foreword' }).click();
    await page.getByLabel('Language').selectOption('Deutsch');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByText('Saved: every report').waitFor();
    const frame = page.frameLocator('iframe[title="Report for the owner"]');
    await frame.getByText(/wartet \d,\d s auf das Hauptbild/).waitFor();
    expect(await (await report('reader=fixer&show=1')).text()).to.contain('<html lang="de">');
    const look = `${server.url}/api/sites/1/look`;
    for (const language of ['xx', '../../demo/sweep.json'])
      expect((await askApi(look, 'PUT', { language })).status, language).to.equal(400);
    expect((await askApi(look, 'PUT', { language: 'en' })).status).to.equal(200);
  });

  it('has the slowest page filmed for the owner’s report', async () => {
    await openAwake(page, `${server.url}/sites/1/handover`);
    await page.locator('summary', { hasText: 'A strip of the page coming up' }).click();
    await page.getByText(/loads the slowest page, (The glasshouse|Plant sale|Welcome)/).waitFor();
    await page.getByRole('button', { name: 'Film it' }).press('Enter');
    await page.getByText(/It is being filmed/).waitFor();
    const { value } = await askApi<{ jobs: JobRow[] }>(`${server.url}/api/jobs`);
    const job = value.jobs.find((j) => j.kind === 'proof');
    expect(job?.state).to.be.oneOf(['queued', 'running']);
    await askApi(`${server.url}/api/jobs/${job?.id}`, 'POST', { action: 'cancel' });
    await page.getByRole('radio', { name: /Auditor/ }).check();
    expect(await page.locator('summary', { hasText: 'A strip of the page coming up' }).count()).to.equal(0);
  });

  it('gives the fixer’s tasks with the edited files as a ZIP', async () => {
    await openAwake(page, `${server.url}/sites/1/handover?reader=fixer`);
    const [file] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'ZIP with the files' }).click(),
    ]);
    expect(file.suggestedFilename()).to.match(/^fixer-\d{4}-\d\d-\d\d\.zip$/);
    const names = Object.keys(unzipSync(fs.readFileSync(await file.path())));
    expect(names).to.include.members(['tasks.md', 'changes.patch']);
    expect(names.filter((n) => /^files\/media\.fernhollow\.example\/p\/.*\.jpg$/.test(n)).length).to.be.above(2);
  });

  it('gives the report as a file', async () => {
    await openAwake(page, `${server.url}/sites/1/handover?reader=fixer`);
    const [file] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'Markdown' }).click(),
    ]);
    expect(file.suggestedFilename()).to.match(/^fixer-\d{4}-\d\d-\d\d\.md$/);
    expect(fs.readFileSync(await file.path(), 'utf8')).to.contain('```diff');
  });

  it('says the same by the API in every format, and what it does not have', async () => {
    const owner = (await (await report('reader=owner&format=json')).json()) as { sentence: string };
    const shown = await report('reader=owner&show=1');
    expect(shown.headers.get('content-security-policy')).to.match(/^sandbox; default-src 'none'/);
    const text = (await shown.text()).replace(/\s+/g, ' ');
    expect(text).to.contain(owner.sentence);
    expect(text).not.to.contain('<script');
    expect((await report('reader=owner&format=csv')).status).to.equal(400);
    expect((await report('reader=nobody')).status).to.equal(400);
    expect((await report('reader=owner&sweep=999')).status).to.equal(400);
    expect((await fetch(`${server.url}/api/sites/99/report?reader=owner`)).status).to.equal(404);
  });
});
