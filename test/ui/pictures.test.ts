import { expect } from 'chai';
import fs from 'node:fs';
import type { Browser, Page } from 'playwright-core';
import { openAwake } from '../fixtures/awake';
import { startBrowser, startDemo, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

/** From every number on these screens one click leads to just the rows behind it. */
describe('ui: pictures of the concerns, Files, Then & now', () => {
  let server: TestServer;
  let browser: Browser;
  let page: Page;
  const data = tempFolder('pictures-ui');
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
    page = await (
      await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true })
    ).newPage();
    page.setDefaultTimeout(80_000);
    page.on('pageerror', (e) => errors.push(e.message));
  });
  afterEach(async () => {
    await page.context().close();
    expect(errors.splice(0).join('\n')).to.equal('');
  });
  const open = (to: string) => openAwake(page, server.url + to);
  const number = (text: string | undefined) => Number(/\d[\d,]*/.exec(text ?? '')?.[0].replaceAll(',', ''));

  it('shows one hero of each template with what would help most, and all on wish', async () => {
    await open('/sites/1/concerns/hero');
    const rows = page.locator('.heroes > li');
    await rows.first().getByText('less here').first().waitFor();
    const folded = await rows.count();
    const more = await page.locator('.heroes details summary').allInnerTexts();
    const all = page.getByRole('button', { name: /^All \d+ pages$/ });
    const pages = number(await all.innerText());
    expect(folded + more.reduce((n, text) => n + number(text), 0)).to.equal(pages);
    const like = page.locator('.heroes details').first();
    await like.locator('summary').press('Enter');
    await like.getByRole('link').first().waitFor();
    expect(await like.getByRole('link').count()).to.equal(number(more[0] ?? ''));
    await all.click();
    await page.getByRole('button', { name: 'One page of each template' }).waitFor();
    expect(await rows.count()).to.equal(pages);
    await page.getByRole('button', { name: 'hero paint', exact: true }).click();
    await page.waitForURL(/heroes=time/);
    await page.waitForFunction(() => {
      const times = [...document.querySelectorAll('.hero-bar .cost')].map((c) => parseFloat(c.textContent ?? ''));
      return times.length > 0 && times.every((t, at) => at === 0 || t <= (times[at - 1] ?? 0));
    });
    await rows.first().getByRole('button', { name: 'Put on the bench' }).first().click();
    await page.locator('.bench-list li').first().waitFor();
    await rows.first().getByRole('link').first().click();
    await page.locator('.story-line').waitFor();
  });

  it('draws what the first paint waits for, link by link, with a table', async () => {
    await open('/sites/1/concerns/blocking');
    const chain = page.locator('.chain').first();
    await chain.waitFor();
    expect(await page.locator('p.big').innerText()).to.match(
      /sees nothing of .* for \d\.\d s\. If it waited for no script/,
    );
    await chain.getByText('The same as a table').click();
    const links = await chain.locator('tbody tr').count();
    expect(await chain.locator('rect.chain-link').count()).to.be.at.least(links);
    expect(await chain.locator('tbody tr').last().innerText()).to.match(/first paint/);
  });

  it('narrows bytes from kind to file, and shows the picture beside its re-encoded version', async () => {
    await open('/sites/1/concerns/weight');
    const area = page.getByRole('button', { name: /^image\/jpeg: / });
    const named = /([\d.]+ [kM]?B) delivered, ([\d.]+ [kM]?B) needed/.exec(
      (await area.locator('title').textContent()) ?? '',
    );
    await area.click();
    await page.getByText(`${named?.[1]} are delivered`).waitFor();
    expect(await page.locator('p.big').innerText()).to.contain(`${named?.[2]} are needed`);
    const files = number(await page.getByRole('link', { name: /files? as a list/ }).innerText());
    await page.getByText('The same as a table').click();
    expect(await page.locator('.twin tbody tr').count()).to.equal(files);
    await page.getByRole('button', { name: 'glasshouse-dawn.jpg', exact: true }).click();
    await page.getByRole('radio', { name: /^WEBP/ }).first().click();
    const slider = page.getByRole('slider');
    await slider.focus();
    await page.keyboard.press('Home');
    expect(await page.locator('.compare-frame img').last().getAttribute('style')).to.contain('100%');
    const wait = page.waitForEvent('download');
    await page.getByRole('link', { name: 'Download all versions (ZIP)' }).click();
    expect(fs.readFileSync(await (await wait).path()).toString('latin1', 0, 2)).to.equal('PK');
    await page.getByRole('button', { name: 'All files' }).click();
    await page.getByRole('button', { name: /^script: / }).waitFor();
  });

  it('shows what a visitor misses: its place is hatched, or said', async () => {
    await open('/sites/1/concerns/mixed?visitor=desktop');
    const shown = page.locator('section[aria-label="What a visitor sees"]');
    const visit = shown.locator('.missing-shots > li').filter({ hasText: 'Visit' });
    await visit
      .locator('li', { hasText: 'widget' })
      .getByText(/hatched|px down/)
      .waitFor();
    await shown.getByText('has no place of its own').first().waitFor();
    await visit.getByRole('link', { name: 'widget/' }).click();
    await page.waitForURL(/tab=findings&finding=/);
  });

  it('lays mixed content out by page and host; each count opens as many addresses', async () => {
    await open('/sites/1/concerns/mixed');
    const chips = page.locator('section[aria-label="Mixed content by page and host"] .chip');
    await chips.first().waitFor();
    for (const text of await chips.allInnerTexts()) {
      const name = /[a-z ]+[a-z]/.exec(text)?.[0] ?? '';
      await page.getByRole('button', { name, exact: false }).first().click();
      await page.waitForURL(/meets=/);
      await page.locator('.chip.on', { hasText: name }).waitFor();
      let items = 0;
      for (const cell of await page.locator('.mixed-cell').all()) {
        await cell.click();
        items += await page.locator('.mixed ul li').count();
      }
      expect(items, name).to.equal(number(text));
      await page.locator('.chip.on').first().click();
      await page.waitForURL((url) => !url.searchParams.has('meets'));
      await page.locator('.chip.on', { hasText: name }).waitFor({ state: 'detached' });
    }
  });

  it('lists every file once, narrows, groups, sorts and exports what is shown', async () => {
    await open('/sites/1/files');
    const status = page.getByRole('status').filter({ hasText: 'delivered' });
    await status.waitFor();
    const rows = page.locator('table.files tbody tr');
    expect(await rows.count()).to.equal(number(await status.innerText()));
    const option = page.getByLabel('Type').locator('option', { hasText: 'script' });
    const scripts = number(await option.innerText());
    await page.getByLabel('Type').selectOption('script');
    await page.getByText(`${scripts} files of`).waitFor();
    expect(await rows.count()).to.equal(scripts);
    const wait = page.waitForEvent('download');
    await page.getByRole('link', { name: 'CSV' }).click();
    const csv = fs.readFileSync(await (await wait).path(), 'utf8');
    expect(csv.trim().split('\r\n')).to.have.length(scripts + 1);
    await page.getByRole('button', { name: 'host', exact: true }).click();
    const group = page.locator('.file-groups tbody tr').first();
    await group.waitFor();
    const inGroup = number(await group.locator('td').nth(1).innerText());
    await group.getByRole('button').click();
    await page.waitForURL(/host=/);
    await page.waitForFunction((n) => document.querySelectorAll('table.files tbody tr').length === n, inGroup);
    await page.getByRole('button', { name: 'Clear filters' }).click();
    await page.getByRole('button', { name: /^File/ }).click();
    await page.waitForURL(/sort=url/);
    await page.getByText('Columns', { exact: true }).click();
    await page.getByRole('button', { name: 'Protocol' }).click();
    await page.locator('th', { hasText: 'Protocol' }).waitFor();
    await page.keyboard.press('/');
    await page.keyboard.type('nowhere-to-be-found');
    await page.getByText('No file fits these filters.').waitFor();
  });

  it('compares two sweeps; each count of findings opens as many', async () => {
    await open('/sites/1/compare');
    await page.locator('.slopes line.slope').first().waitFor();
    expect(await page.locator('p.big').innerText()).to.match(/^Since 5 Nov 2026 hero paint .* new/);
    const lines = await page.locator('.slopes line.slope').count();
    expect(await page.locator('section[aria-label="Pages"] tbody tr').count()).to.be.at.least(lines);
    const findings = page.locator('section[aria-label="Findings"]');
    for (const name of await findings
      .getByRole('button')
      .evaluateAll((all) => all.map((b) => b.getAttribute('aria-label') ?? '').filter(Boolean))) {
      await findings.getByRole('button', { name, exact: true }).click();
      await page.waitForURL(/state=/);
      const all = findings.getByRole('button', { name: /^Show all/ });
      if ((await all.count()) > 0) await all.click();
      await page.waitForFunction((n) => document.querySelectorAll('.compare-causes li').length === n, number(name));
    }
    await page.locator('.compare-causes a').first().click();
    await page.locator('.findings > li').first().waitFor();
  });

  it('can be read without JavaScript', async () => {
    const plain = await (await browser.newContext({ javaScriptEnabled: false })).newPage();
    for (const [to, says] of [
      ['concerns/hero', 'Request 37 of 37'],
      ['concerns/blocking', 'less without it'],
      ['concerns/weight', 'could be saved'],
      ['concerns/mixed', 'blocked'],
      ['files', 'kit.js'],
    ] as const) {
      await plain.goto(`${server.url}/sites/1/${to}`);
      expect(await plain.locator('main').innerText(), to).to.contain(says);
    }
    await plain.context().close();
  });
});
