import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { openAwake, untilAwake } from '../fixtures/awake';
import { startBrowser, startDemo, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

/** Screens that are asked for while the pointer rests on a link to them. */
describe('ui: links under the pointer', () => {
  const data = tempFolder('warm');
  let server: TestServer;
  let browser: Browser;
  let page: Page;
  let asked: string[] = [];
  const times = (path: string) => asked.filter((p) => p === path).length;
  const link = (name: string) => page.locator('.rail').getByRole('link', { name, exact: true });
  const answered = (path: string) => page.waitForResponse((r) => new URL(r.url()).pathname === path);

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
    page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    asked = [];
    page.on('request', (r) => asked.push(new URL(r.url()).pathname));
    await openAwake(page, `${server.url}/sites/1`);
  });
  afterEach(() => page.close());

  it('are asked for once, and shown by the click', async () => {
    const answer = answered('/sites/1/files');
    await link('Files').hover();
    await (await answer).finished();
    expect(page.url()).to.match(/sites\/1$/);
    await page.mouse.down();
    await page.mouse.up();
    await page.getByRole('heading', { name: 'Files', exact: true }).waitFor();
    await untilAwake(page);
    expect(new URL(page.url()).pathname).to.equal('/sites/1/files');
    expect(times('/sites/1/files')).to.equal(1);
  });

  it('bring the files along that the screen needs, and leave those of the screens before', async () => {
    const sheets = () =>
      page.locator('head link[rel=stylesheet]').evaluateAll((l) => l.map((e) => e.getAttribute('href')));
    const before = await sheets();
    await link('Files').hover();
    const module = page.locator('head link[rel=modulepreload][href*="FilesScreen"]');
    await module.waitFor({ state: 'attached' });
    const more = await page.locator('head link[rel=preload][as=style]').getAttribute('href');
    expect(before).not.to.include(more);
    await page.mouse.down();
    await page.mouse.up();
    await page.getByRole('heading', { name: 'Files', exact: true }).waitFor();
    expect(await sheets()).to.include.members([...before, more]);
  });

  it('lead to a screen in the theme that was chosen, before it is shown', async () => {
    await page.evaluate(() => localStorage.setItem('mantine-color-scheme-value', 'dark'));
    await page.reload();
    await untilAwake(page);
    const theme = page.locator('html[data-mantine-color-scheme=dark]');
    await theme.waitFor();
    await page.evaluate(() => {
      const changes: string[] = [];
      Object.assign(window, { changes });
      new MutationObserver((list) =>
        changes.push(...list.map(() => document.documentElement.getAttribute('data-mantine-color-scheme') ?? '')),
      ).observe(document.documentElement, { attributeFilter: ['data-mantine-color-scheme'] });
    });
    await link('Files').click();
    await page.getByRole('heading', { name: 'Files', exact: true }).waitFor();
    await untilAwake(page);
    await theme.waitFor();
    const seen = await page.evaluate(() => (window as unknown as { changes: string[] }).changes);
    expect(seen.filter((t) => t !== 'dark')).to.deep.equal([]);
  });

  it('are asked for anew after a key was pressed', async () => {
    const answer = answered('/sites/1/files');
    await link('Files').hover();
    await (await answer).finished();
    await link('Files').focus();
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { name: 'Files', exact: true }).waitFor();
    expect(times('/sites/1/files')).to.equal(2);
  });

  it('are not asked for where they lead to the screen at hand', async () => {
    await link('Brief').hover();
    const answer = answered('/sites/1/watch');
    await page
      .locator('.rail')
      .getByRole('link', { name: /^Watch/ })
      .hover();
    await answer;
    expect(times('/sites/1')).to.equal(1);
  });
});
