import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { openAwake, untilAwake } from '../fixtures/awake';
import { askApi } from '../fixtures/jobs';
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
    page.setDefaultTimeout(80_000);
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
    await page.evaluate(() => (window as Held).letMessagesGo?.());
    await untilAwake(page);
    await page.locator('.concerns .harm-count').first().click();
    await page.locator('.findings > li').first().waitFor();
    await untilAwake(page);
  });

  it('are drawn anew on the next screen when they have not woken on this one', async () => {
    const letGo = await hold(/\/(TopBar|BenchPanel|Overlays)\.[^/]*\.js$/);
    await page.goto(`${server.url}/sites/1/pages?view=captured`, { waitUntil: 'commit' });
    await page.waitForFunction(() => document.querySelector('main astro-island[data-awake]'));
    await page.getByRole('link', { name: 'The glasshouse' }).click();
    await page.getByRole('tab', { name: /^Loads/ }).waitFor();
    letGo();
    await untilAwake(page);
    await page.getByRole('tab', { name: /^Loads/ }).click();
    await page.waitForURL(/tab=loads/);
    await page.locator('.bench-bar').first().waitFor();
  });

  it('keep what was clicked until they listen', async () => {
    await askApi(`${server.url}/api/sites/1/mutes`, 'POST', {
      scope: 'check',
      value: 'server-wait',
      check: 'server-wait',
      title: 'Slow answers',
      reason: 'the shop is replaced in spring',
    });
    await page.addInitScript(`${HOLD_MESSAGES} window.holdMessages = true;`);
    await page.goto(`${server.url}/sites/1/checks`);
    await page.getByText('the shop is replaced in spring').waitFor();
    await page.getByRole('button', { name: 'Unmute' }).click();
    await page.evaluate(() => (window as Held).letMessagesGo?.());
    await page.getByText('the shop is replaced in spring').waitFor({ state: 'detached' });
  });

  it('get what was pressed and clicked in the order in which it was done', async () => {
    await page.addInitScript(HOLD_MESSAGES);
    await openAwake(page, `${server.url}/sites/1`);
    const list = page.locator('.bench-list li');
    await page.locator('.rows .put').first().click();
    await list.first().waitFor();
    await page.locator('.rows .put').nth(1).click();
    await list.nth(1).waitFor();
    await page.evaluate(() => void ((window as Held).holdMessages = true));
    await page.getByRole('link', { name: /^Hero/ }).click();
    await page.getByText('What is the largest element above the fold').waitFor();
    await page.keyboard.press('u');
    await page.getByRole('button', { name: 'Clear' }).click();
    await page.evaluate(() => (window as Held).letMessagesGo?.());
    await untilAwake(page);
    await page.getByText('Nothing on the bench').waitFor();
  });

  it('do not show what changed while their page was on its way', async () => {
    const reason = 'the tables are hired';
    await askApi(`${server.url}/api/sites/1/mutes`, 'POST', {
      scope: 'check',
      value: 'cookie-insecure',
      check: 'cookie-insecure',
      title: 'Cookies without Secure',
      reason,
    });
    let letGo = () => {};
    const gone = new Promise<void>((done) => (letGo = done));
    await page.route(/\/sites\/1\/checks/, async (route) => {
      const response = await route.fetch();
      await gone;
      await route.fulfill({ response });
    });
    await openAwake(page, `${server.url}/sites/1/concerns/https?muted=only`);
    await page.getByText(reason).first().waitFor({ timeout: 20_000 });
    await page.getByRole('link', { name: 'Checks and limits' }).click();
    await page.getByRole('button', { name: 'Unmute' }).first().click();
    await page.getByText(reason).waitFor({ state: 'detached' });
    letGo();
    await page.waitForURL(/\/checks/);
    await untilAwake(page);
    await page.getByText(reason).waitFor({ state: 'detached' });
  });

  /** Keeps scripts on their way until the result is called. */
  async function hold(scripts: RegExp): Promise<() => void> {
    let letGo = () => {};
    const gone = new Promise<void>((done) => (letGo = done));
    await page.route(scripts, async (route) => {
      await gone;
      await route.continue();
    });
    return letGo;
  }
});
