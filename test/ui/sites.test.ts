import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { addSite } from '../../src/engine/store/sites';
import { openStore } from '../../src/engine/store/store';
import { faultsOf } from '../fixtures/axe';
import { openAwake, untilAwake } from '../fixtures/awake';
import { putDemo, startBrowser, startServer, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

describe('ui: sites by the hundred', () => {
  const data = tempFolder('ui-sites');
  let server: TestServer;
  let browser: Browser;
  let page: Page;
  before(async () => {
    await putDemo(data.folder);
    const store = await openStore(data.folder);
    for (let i = 1; i <= 120; i++) await addSite(store, `Garden ${i}`, `https://www.garden-${i}.example/`);
    await store.destroy();
    server = await startServer({ KEEN_LENS_DATA: data.folder });
    browser = await startBrowser();
    page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  });
  after(async () => {
    await browser.close();
    await server.stop();
    data.remove();
  });
  const names = () => page.locator('.sites-table tbody .strong').allTextContents();
  const open = (to: string) => openAwake(page, server.url + to);

  it('puts first what needs attention, and says why', async () => {
    await open('/');
    await page.getByText('1 of 121 sites needs attention.').waitFor();
    const first = page.locator('.sites-table tbody tr').first();
    expect(await first.textContent()).to.match(/Fernhollow Botanic Garden.*(limit|certificate)/);
    expect((await names()).length).to.equal(50);
    await page.getByRole('button', { name: 'Show 50 more' }).click();
    expect((await names()).length).to.equal(100);
  });

  it('says what each site takes on the disk, and where that can be changed', async () => {
    await open('/');
    await page.getByText('Disk use', { exact: true }).click();
    const rows = page.locator('.disk tbody tr');
    await rows.first().waitFor();
    expect(await rows.count()).to.equal(121);
    expect(await rows.first().textContent()).to.match(
      /^Fernhollow Botanic Garden[\d.]+ kB[\d.]+ MB[\d.]+ MB67 captures/,
    );
    await page.getByText(/^The database takes [\d.]+ MB on the disk/).waitFor();
    expect(await faultsOf(page, 'all')).to.deep.equal([]);
  });

  it('finds by words and sorts, which the address keeps', async () => {
    await open('/');
    await page.getByRole('searchbox', { name: 'Search sites' }).fill('garden-11');
    await page.getByText('11 of 121 sites').waitFor();
    await page.getByLabel('Sort by').selectOption('name');
    await page.reload();
    await untilAwake(page);
    expect((await names())[0]).to.equal('Garden 11');
    await open('/?search=nothing-of-the-kind');
    await page.getByText('No site fits.').waitFor();
  });

  it('puts sites into groups, by keyboard, and shows one group', async () => {
    await open('/?search=garden-7.');
    await page.getByRole('button', { name: 'put into a group: Garden 7' }).focus();
    await page.keyboard.press('Enter');
    await page.keyboard.type('North');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'North: group of Garden 7' }).waitFor();
    await page.getByRole('button', { name: 'North: group of Garden 7' }).click();
    await page.keyboard.type('South');
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'North: group of Garden 7' }).waitFor();
    await open('/');
    await page.getByRole('combobox', { name: /^Group/ }).selectOption('North');
    await page.getByText('1 of 121 sites', { exact: true }).waitFor();
    expect(await names()).to.deep.equal(['Garden 7']);
    expect((await faultsOf(page)).join('\n')).to.equal('');
  });

  it('lists and searches without scripts, too', async () => {
    const plain = await (await browser.newContext({ javaScriptEnabled: false })).newPage();
    await plain.goto(`${server.url}/`);
    await plain.getByRole('searchbox', { name: 'Search sites' }).fill('garden-119');
    await Promise.all([plain.waitForURL(/search=garden-119/), plain.keyboard.press('Enter')]);
    expect(await plain.locator('.sites-table tbody .strong').allTextContents()).to.deep.equal(['Garden 119']);
    await plain.context().close();
  });

  it('holds on a phone in the dark', async () => {
    await page.setViewportSize({ width: 390, height: 800 });
    await page.emulateMedia({ colorScheme: 'dark' });
    await open('/');
    expect(await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth)).to.be.at.most(0);
    expect((await faultsOf(page)).join('\n')).to.equal('');
  });
});
