import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { openAwake } from '../fixtures/awake';
import { startBrowser, startDemo, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

describe('ui: field data', () => {
  let server: TestServer;
  let browser: Browser;
  let page: Page;
  const data = tempFolder('field-ui');
  const errors: string[] = [];
  before(async () => {
    server = await startDemo(data.folder);
    browser = await startBrowser();
  });
  after(async () => {
    await browser.close();
    await server.stop();
    data.remove();
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
  const open = (to: string) => openAwake(page, server.url + to);

  it('fits visitors, and gives every figure for them', async () => {
    await open('/sites/1/field');
    await page.getByRole('button', { name: 'Fit visitors to these figures' }).click();
    await page.getByText(/^Three of four visits are at least as good as \d+ ms round trip/).waitFor();
    await page.getByText(/^p75 of hero paint over all visits:/).waitFor();
    await page.getByRole('button', { name: 'Give every figure for these visitors' }).click();
    await page.waitForURL(/visitor=screen/);
    await page.getByText('Every figure is for these visitors now: their p75.').waitFor();
    await page.locator('.bench').getByRole('button', { name: 'Put on the bench' }).click();
    await page.getByText(/with 1 fix of the bench/).waitFor();
    await page.reload();
    await page.getByText(/with 1 fix of the bench/).waitFor();
  });

  it('stands beside the forecast wherever a page has figures', async () => {
    const says = (text: string | RegExp) => page.locator('main, .bench').getByText(text).first().waitFor();
    for (const [path, text] of [
      [
        '/sites/1',
        /Real visits to this page, phone, October 2026, [\d,]+ visits, p75: Hero paint \(LCP\) \d\.\d s, poor/,
      ],
      ['/sites/1', /Real visits to the whole origin, phone, October 2026/],
      ['/sites/1/pages?view=captured', /^Real visits to this page, phone, October 2026, 3,100 visits/],
      ['/sites/1/pages', 'visits 9.2 s'],
      ['/sites/1/concerns/hero', /^Real visits to this page.*Hero paint/],
      ['/sites/1/concerns/blocking', /^Real visits to this page.*First paint/],
      ['/sites/1/compare', /^Real visits to this page.*Hero paint/],
    ] as const) {
      await open(path);
      await says(text);
    }
    await open('/sites/1/pages?view=captured');
    await page.getByRole('button', { name: 'Real visits (LCP)' }).click();
    await page.locator('tbody tr').first().getByText('Plant sale').waitFor();
    await page.locator('tbody tr').first().getByRole('link').click();
    await says(/Real visits to this page, phone, October 2026, 3,100 visits/);
  });

  it('takes a file, says what of it was not read, and lets it go', async () => {
    await open('/sites/1/field');
    await page.locator('summary', { hasText: 'Files (1)' }).click();
    const text = 'url,device,month,INP\nhttps://www.fernhollow.example/,phone,2026-10,320\n,phone,2026-10,1\n';
    await page
      .getByLabel('File of field data')
      .setInputFiles({ name: 'inp.csv', mimeType: 'text/csv', buffer: Buffer.from(text) });
    await page.getByText('1 row not read: line 3: no address').waitFor();
    await page.getByRole('columnheader', { name: 'Interaction (INP)' }).waitFor();
    await page
      .getByLabel('File of field data')
      .setInputFiles({ name: 'no.csv', mimeType: 'text/csv', buffer: Buffer.from('a,b\n1,2') });
    await page.getByText('No column is named after a metric.').waitFor();
    await page.getByRole('button', { name: 'Remove' }).last().click();
    await page.locator('summary', { hasText: 'Files (1)' }).waitFor();
  });

  it('stands beside the lab on the page itself', async () => {
    await open('/sites/1/pages/20?tab=facts');
    await page.getByRole('heading', { name: 'Real visits to this page' }).waitFor();
    await page.getByText('p75 of phone, 2026-10, 1,900 visits.').waitFor();
  });
});
