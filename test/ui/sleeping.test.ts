import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { openAwake, untilAwake } from '../fixtures/awake';
import { startBrowser, startDemo, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

/** Messages that the scheduler of React waits for; held back, no island that has started gets any further. */
interface Held extends Window {
  holdMessages?: boolean;
  letMessagesGo?: () => void;
}

const HOLD_MESSAGES = `{
  const held = [];
  const send = MessagePort.prototype.postMessage;
  MessagePort.prototype.postMessage = function (...message) {
    if (window.holdMessages) held.push(() => send.apply(this, message));
    else send.apply(this, message);
  };
  window.letMessagesGo = () => {
    window.holdMessages = false;
    for (const go of held.splice(0)) go();
  };
}`;

/** Users who are faster than our scripts. */
describe('ui: islands that still sleep', () => {
  let server: TestServer;
  let browser: Browser;
  let page: Page;
  const data = tempFolder('sleeping');
  const errors: string[] = [];

  before(async () => {
    server = await startDemo(data.folder);
    browser = await startBrowser();
  });
  beforeEach(async () => {
    page = await (await browser.newContext()).newPage();
    page.on('pageerror', (e) => errors.push(e.message));
    page.on('console', (message) => {
      if (message.type() === 'error') errors.push(message.text());
    });
  });
  afterEach(async () => {
    await page.context().close();
    expect(errors.splice(0).join('\n')).to.equal('');
  });
  after(async () => {
    await browser.close();
    await server.stop();
    data.remove();
  });

  it('may be left before they wake', async () => {
    await page.addInitScript(HOLD_MESSAGES);
    await openAwake(page, `${server.url}/sites/1`);
    await page.evaluate(() => void ((window as Held).holdMessages = true));
    await page.getByRole('link', { name: /^Blocking/ }).click();
    await page.locator('.findings > li').first().waitFor();
    await page.waitForFunction(() =>
      [...document.querySelectorAll('main astro-island:not([data-awake])')].some((island) =>
        Object.keys(island).some((key) => key.startsWith('__reactContainer')),
      ),
    );
    await page.goBack();
    await page.locator('.concerns').waitFor();
    await page.evaluate(() => (window as Held).letMessagesGo!());
    await untilAwake(page);
    await page.locator('.concerns .harm-count').first().click();
    await page.locator('.findings > li').first().waitFor();
    await untilAwake(page);
  });

  it('may be carried to the next screen before they wake', async () => {
    let letGo = () => {};
    const gone = new Promise<void>((done) => (letGo = done));
    await page.route(/\/TopBar\.[^/]*\.js$/, async (route) => {
      await gone;
      await route.continue();
    });
    await page.goto(`${server.url}/sites/1`, { waitUntil: 'commit' });
    await page.waitForFunction(() => document.querySelector('main astro-island[data-awake]'));
    await page.getByRole('link', { name: /^Blocking/ }).click();
    await page.locator('.findings > li').first().waitFor();
    letGo();
    await untilAwake(page);
    await page.getByRole('button', { name: /^Tidy/ }).click();
    await page.waitForURL(/tidy/);
  });
});
