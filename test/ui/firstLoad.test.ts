import { expect } from 'chai';
import type { Browser, BrowserContext, Locator } from 'playwright-core';
import { htmlLarge } from '../../src/core/checks/weight/htmlLarge';
import { LIMITS, loadScreen, MOST_SHIFT, PHONE, SCREENS } from '../../bench/self/firstLoad';
import { startBrowser, startDemo, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

/** What our own pages send at first, and what they are without JavaScript. */
describe('ui: first load', () => {
  let server: TestServer;
  let browser: Browser;
  let context: BrowserContext | undefined;
  const data = tempFolder('first');

  before(async () => {
    server = await startDemo(data.folder);
    browser = await startBrowser();
  });
  afterEach(async () => {
    await context?.close();
    context = undefined;
  });
  after(async () => {
    await browser.close();
    await server.stop();
    data.remove();
  });

  for (const screen of SCREENS)
    it(`stays small and in its place, on a phone: ${screen.name}`, async () => {
      const { scriptBytes, styleBytes, cls, faults } = await loadScreen(browser, server.url + screen.path, PHONE);
      expect(faults).to.deep.equal([]);
      expect(scriptBytes, 'JavaScript').to.be.within(20_000, LIMITS.scriptBytes);
      expect(styleBytes, 'CSS').to.be.within(2_000, LIMITS.styleBytes);
      expect(cls, 'layout shift').to.be.below(MOST_SHIFT);
    });

  for (const path of ['/sites/1', '/sites/1/concerns/hero', '/sites/1/concerns/https', '/sites/1/pages/20'])
    it(`stays in its place on a phone when fonts come late: ${path}`, async () => {
      const { cls } = await loadScreen(browser, server.url + path, PHONE, true);
      expect(cls, 'layout shift').to.be.below(MOST_SHIFT);
    });

  for (const screen of SCREENS)
    it(`can be read without JavaScript: ${screen.name}`, async () => {
      context = await browser.newContext({ javaScriptEnabled: false });
      const page = await context.newPage();
      await page.goto(server.url + screen.path);
      const words = (await page.locator('main').innerText()).replace(/\s+/g, ' ');
      expect(words).to.contain(screen.says);
      expect(words).not.to.match(/\bReading (the|sites|pages|findings)/);
      const size = { bytes: (await page.content()).length, elements: await page.locator('*').count() };
      for (const { id, value } of htmlLarge.thresholds ?? [])
        expect(size[id as keyof typeof size], `${id} of its document`).to.be.below(value);
    });

  for (const path of ['concerns/hero', 'concerns/mixed', 'pages/20'])
    it(`asks for the picture that leads a screen before anything else in its body: ${path}`, async () => {
      context = await browser.newContext({ javaScriptEnabled: false });
      const page = await context.newPage();
      await page.goto(`${server.url}/sites/1/${path}`);
      const picture = page.locator('.first-screen img').first();
      expect(await picture.getAttribute('loading')).to.equal('eager');
      const preload = page.locator('head link[rel=preload][as=image]');
      expect(await preload.getAttribute('imagesrcset')).to.equal(await picture.getAttribute('srcset'));
      expect(await preload.getAttribute('fetchpriority')).to.equal('high');
    });

  it('goes from screen to screen and narrows lists without JavaScript', async () => {
    context = await browser.newContext({ javaScriptEnabled: false });
    const page = await context.newPage();
    /** Clicks, and waits for the whole page that this leads to. */
    const follow = async (what: Locator) => {
      const before = page.url();
      await what.click();
      await page.waitForURL((url) => url.href !== before);
    };
    await page.goto(server.url);
    await follow(page.getByRole('link', { name: 'Fernhollow Botanic Garden' }));
    const phone = await page.locator('h1 em').innerText();
    await follow(page.getByRole('radio', { name: 'Desktop' }));
    expect(await page.locator('h1 em').innerText()).not.to.equal(phone);
    await follow(page.getByRole('link', { name: /^Blocking/ }));
    expect(page.url()).to.contain('visitor=desktop');
    const all = await page.locator('.findings > li').count();
    await follow(page.getByRole('button', { name: /^Tidy/ }));
    const tidy = await page.locator('.findings > li').count();
    expect(tidy).to.be.within(1, all - 1);
    await page.goto(`${server.url}/sites/1/concerns/mixed`);
    await page.getByLabel('Search findings').fill('plaque');
    await follow(page.getByRole('button', { name: 'Apply' }).first());
    expect(await page.locator('.findings > li').count()).to.equal(1);
    await follow(page.getByRole('link', { name: /^Pages/ }));
    await follow(page.getByRole('tab', { name: /Recorded by a browser/ }));
    await follow(page.getByRole('link', { name: 'The glasshouse' }));
    await follow(page.getByRole('tab', { name: /^Loads/ }));
    expect(await page.locator('.loads tbody tr').count()).to.be.above(20);
  });
});
