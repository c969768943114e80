import { expect } from 'chai';
import fs from 'node:fs';
import type { Browser, Page } from 'playwright-core';
import { PICTURE_CACHE, serveDemo, type DemoSite } from '../../demo/site/serve';
import { openAwake } from '../fixtures/awake';
import { startBrowser, startServer, type TestServer } from '../fixtures/server';

/** From an address to every page's facts, in a real browser, on the stand-in site. */
describe('ui of sweeps', () => {
  let server: TestServer;
  let browser: Browser;
  let page: Page;
  let site: DemoSite;
  const errors: string[] = [];

  before(async function () {
    this.timeout(240_000);
    site = await serveDemo(PICTURE_CACHE, { pages: 300 });
    server = await startServer();
    browser = await startBrowser();
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true });
    page = await context.newPage();
    page.setDefaultTimeout(80_000);
    page.on('pageerror', (e) => errors.push(e.message));
  });
  after(async () => {
    await browser.close();
    await server.stop();
    await site.close();
  });
  afterEach(() => expect(errors.splice(0).join('\n')).to.equal(''));
  const heading = (name: string | RegExp) => page.getByRole('heading', { name }).waitFor();
  const total = async () =>
    Number(/([\d,]+)(?: of [\d,]+)? addresses/.exec(await page.locator('.tools').innerText())?.[1]?.replace(',', ''));

  it('begins with an address and says what would happen', async () => {
    await openAwake(page, server.url);
    await page.getByLabel('Address of a site').fill('www.fernhollow.example');
    await page.keyboard.press('Enter');
    await heading('Sweep www.fernhollow.example');
    expect(await page.locator('.lead').innerText()).to.match(
      /follows links .* at most 5 requests a second.*up to 6 pages, as phone and desktop, 3 times each/s,
    );
  });

  it('sets pace, hosts and captures; a wrong setting is told, a stored one comes back', async () => {
    await page.getByRole('radio', { name: /Own server/ }).click();
    await page.getByText('Identity and host map').click();
    await page.getByLabel('Hosts elsewhere').fill('nonsense');
    await page.getByText('Certificates that are not valid').click();
    await page.getByText('What is recorded by a browser').click();
    await page.getByLabel('Pages at most').last().fill('1');
    await page.getByLabel('desktop').click();
    await page.getByLabel('Recordings of each page').fill('1');
    await page.getByLabel('Hosts elsewhere').fill(site.map.join('\n'));
    await page.getByText('Scope').click();
    await page.getByLabel('Exclude URLs').fill('/talks/');
    await page.getByRole('button', { name: 'Save settings' }).click();
    await page.getByText('Saved.', { exact: true }).waitFor();
    await page.reload();
    await heading('Sweep www.fernhollow.example');
    expect(await page.locator('.lead').innerText()).to.match(
      /as fast as the server responds, 16 at a time. Then a browser records .*, up to 1 page, as phone, once each\./,
    );
  });

  it('sweeps in one click, pauses, goes on and ends', async function () {
    this.timeout(240_000);
    await page.getByRole('button', { name: 'Start the sweep' }).click();
    await heading('Sweep of www.fernhollow.example');
    await page.getByRole('button', { name: 'Pause' }).click();
    await page.getByText('Paused. It resumes where it stopped').waitFor();
    await page.getByRole('button', { name: 'Resume' }).click();
    await page.locator('.lead').getByText('Done').waitFor({ timeout: 90_000 });
    expect(await page.locator('.figures').innerText()).to.match(/0\s*failed/);
    await page.getByText('home page').waitFor();
    await page.getByText('How this sweep was set').click();
    expect(await page.locator('.facts').innerText()).to.match(/\/talks\//);
  });

  it('shows every page; spreads, flags and words narrow the list, and each can be taken back', async () => {
    await page.getByRole('link', { name: 'Open the pages' }).click();
    await heading('Pages');
    await page.locator('.page-table .row').first().waitFor();
    const all = await total();
    expect(all).to.be.above(300);
    await page.getByRole('button', { name: /Status 404/ }).click();
    await page.getByText('status 404').waitFor();
    await page.getByText(/^\d+ of \d+ addresses$/).waitFor();
    expect(await total()).to.be.within(1, 10);
    expect(new URL(page.url()).searchParams.get('status')).to.equal('404');
    await page.getByRole('button', { name: 'Remove filter: status 404' }).click();
    await page.getByRole('button', { name: /Orphan page/ }).click();
    await page.getByText(/^\d+ of \d+ addresses$/).waitFor();
    expect(await total()).to.equal(site.catalogue?.orphans);
    await page.getByRole('button', { name: 'Clear filters' }).click();
    await page.keyboard.press('Escape');
    await page.locator('h1').click();
    await page.keyboard.press('/');
    await page.keyboard.type('glasshouse');
    await page.getByText(/^[12] of \d+ addresses$/).waitFor();
    await page.getByLabel('Search pages').fill('');
    await page.getByText(new RegExp(`^${all} addresses$`)).waitFor();
  });

  it('groups by template, chooses columns, sorts and exports what is shown', async () => {
    await page.getByLabel('Group by').selectOption('template');
    await page.getByRole('button', { name: '/plants/*', exact: true }).click();
    await page.getByText('template /plants/*').waitFor();
    await page.getByRole('button', { name: 'Columns' }).click();
    await page.getByRole('menuitem', { name: 'Broken links, hidden' }).click();
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Broken links', exact: true }).click();
    const first = page.locator('.page-table .row').first();
    await first.locator('b', { hasText: /^1$/ }).waitFor();
    expect(await first.innerText()).to.match(/\/plants\//);
    const download = page.waitForEvent('download');
    await page.getByRole('link', { name: 'Export CSV' }).click();
    const csv = fs
      .readFileSync(await (await download).path(), 'utf8')
      .trim()
      .split('\r\n');
    expect(csv[0]).to.contain('links to missing pages');
    expect(csv).to.have.length((site.catalogue?.species ?? 0) + 1);
    expect(csv.slice(1).every((l) => l.includes('/plants/'))).to.equal(true);
  });

  it('groups by any fact with totals and shares, and narrows to a group', async () => {
    await page.getByRole('button', { name: 'Clear filters' }).click();
    for (const by of ['language', 'type', 'status', 'links from the home page', 'content coding', 'found by']) {
      await page.getByLabel('Group by').selectOption({ label: by });
      await page.getByRole('columnheader', { name: new RegExp(`^${by}`, 'i') }).waitFor();
      const column = (n: number) => page.locator(`table.rows tbody tr td:nth-child(${n})`).allInnerTexts();
      const pages = (await column(2)).map((t) => Number(t.replaceAll(',', '')));
      const foot = page.locator('table.rows tfoot td').first();
      expect(Number((await foot.innerText()).replaceAll(',', '')), by).to.equal(pages.reduce((a, b) => a + b, 0));
      const shares = (await column(3)).map((t) => Number.parseFloat(t));
      expect(
        shares.reduce((a, b) => a + b, 0),
        by,
      ).to.be.closeTo(100, 0.1 * shares.length);
    }
    await page.getByLabel('Group by').selectOption('language');
    const english = page
      .locator('table.rows tbody tr')
      .filter({ has: page.getByRole('button', { name: 'en', exact: true }) });
    const count = await english.locator('td').nth(1).innerText();
    await english.getByRole('button').press('Enter');
    await page.getByText(new RegExp(`^${count} of [\\d,]+ addresses$`)).waitFor();
    await page.getByRole('button', { name: 'Remove filter: language en' }).waitFor();
  });

  it('opens a page by keyboard: its facts, links in and out, mentions with their lines', async () => {
    await page.getByRole('button', { name: 'Clear filters' }).click();
    const fault = site.catalogue?.planted().find((p) => p.kind === 'missing-link');
    await page.getByLabel('Search pages').fill(new URL(fault?.page ?? '').pathname);
    await page.getByText(/^1 of \d+ addresses$/).waitFor();
    await page.locator('h1').click();
    await page.keyboard.press('Enter');
    await page.getByText('It has 1 broken link.').waitFor();
    await page.getByText('Its load is like that of').waitFor({ state: 'detached' });
    await page.getByRole('tab', { name: /Links out/ }).click();
    const link = page.locator('tr', { hasText: 'Lost' });
    expect(await link.innerText()).to.contain(`${fault?.line ?? 0}:`);
    await link.getByRole('link').click();
    await page.getByText(/Status 404; links to it: 1\./).waitFor();
    await page.getByRole('tab', { name: /Links in/ }).click();
    expect(await page.locator('main table').innerText()).to.contain(new URL(fault?.page ?? '').pathname);
    await page.goBack();
    await page.getByRole('tab', { name: /http:\/\/ URLs/ }).click();
    await page.locator('main table', { hasText: "the site's own" }).waitFor();
  });

  it('previews what patterns keep, while they are typed', async () => {
    await page.getByRole('link', { name: 'New sweep' }).click();
    await page.getByText('Keeps').waitFor();
    await page.getByLabel('Include URLs').fill('/plants/\n/beds/');
    await page.getByLabel('Exclude URLs').fill('');
    await page.waitForFunction(() =>
      /Keeps 2\d\d of 3\d\d/.test(document.querySelector('.preview')?.textContent ?? ''),
    );
    expect(await page.getByLabel('Left out addresses').innerText()).to.contain('/visit/');
    await page.getByText('Where pages come from').click();
    await page.getByLabel('List of addresses').fill('name,page\nFern,/plants/\nMoss,/beds/');
    await page.getByText('2 addresses; the first is https://www.fernhollow.example/plants/').waitFor();
    await page.getByLabel('Column with the addresses').selectOption('name');
    await page.getByText('2 lines without an address').waitFor();
  });

  it('says why a sweep failed and what to do next', async () => {
    await openAwake(page, server.url);
    await page.getByLabel('Address of a site').fill('not an address at all');
    await page.keyboard.press('Enter');
    await page.getByRole('alert').getByText('is not a web address').waitFor();
    await page.getByLabel('Address of a site').fill('http://127.0.0.1:9/');
    await page.keyboard.press('Enter');
    await heading(/^Sweep 127/);
    await page.locator('summary', { hasText: 'Robots rules' }).click();
    await page.getByText('Obey robots.txt').click();
    await page.getByRole('button', { name: 'Start the sweep' }).click();
    await page.getByRole('alert').getByText('No page could be fetched').waitFor({ timeout: 120_000 });
    expect(await page.getByRole('alert').innerText()).to.match(/private address/);
    await page.getByRole('button', { name: 'Retry failed' }).waitFor();
  });
});
