import { expect } from 'chai';
import fs from 'node:fs';
import type { Browser, Page } from 'playwright-core';
import { openAwake, untilAwake } from '../fixtures/awake';
import { startBrowser, startDemo, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

/** The whole job on demo data: find the cause, forecast, plan, save, hand over; and what goes wrong on the way. */
describe('ui: workbench', () => {
  let server: TestServer;
  let browser: Browser;
  let page: Page;
  const data = tempFolder('workbench');
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
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true });
    page = await context.newPage();
    page.setDefaultTimeout(80_000);
    page.on('pageerror', (e) => errors.push(e.message));
  });
  afterEach(async () => {
    await page.context().close();
    expect(errors.splice(0).join('\n')).to.equal('');
  });
  const open = (to: string) => openAwake(page, server.url + to);
  const text = (selector: string) => page.locator(selector).first().innerText();
  const param = (name: string) => new URL(page.url()).searchParams.get(name);
  const glasshouse = async (query = '') => {
    await open(`/sites/1/pages?view=captured${query}`);
    await page.getByRole('link', { name: 'The glasshouse' }).click();
    await page.locator('.story-line').waitFor();
    await untilAwake(page);
  };
  const download = async (name: string) => {
    const wait = page.waitForEvent('download');
    await page.getByRole('link', { name }).click();
    return fs.readFileSync(await (await wait).path(), 'utf8');
  };

  it('finds the way to a target, saves it as a plan with owners, and hands it over', async () => {
    await open('/sites/1/plan');
    await page.getByLabel('Target in seconds').fill('3');
    await page.getByRole('button', { name: 'Find the fewest fixes' }).click();
    await page.getByText(/get there: .* → .*, about \d+ min/).waitFor();
    const found = await page.locator('.target-list li').allInnerTexts();
    expect(found.length).to.be.within(2, 7);
    await page.getByRole('button', { name: 'Put them on the bench' }).click();
    await page.getByText('Only these are on the bench').waitFor();
    expect(await page.locator('.fix-table tbody tr').count()).to.equal(found.length);
    // Ranges follow; the sentence agrees with the bench and stays under the target.
    await page.getByRole('heading', { name: /With \d fixes .* \(\d/ }).waitFor();
    const after = Number.parseFloat(await text('h1 b'));
    expect(after).to.be.at.most(3);
    expect(await text('.bench-bar b')).to.equal(await text('h1 b'));
    const first = (await page.locator('.fix-table tbody b').first().innerText()).trim();
    await page.getByLabel(`Owner of ${first}`).fill('Ivy');
    await page.getByLabel(`Due date of ${first}`).fill('2026-12-01');
    await page.getByLabel(`State of ${first}`).selectOption('started');
    await page.getByLabel('Name of the plan').fill('Before the spring fair');
    await page.getByRole('button', { name: 'Save as a plan' }).click();
    await page.getByText('Before the spring fair is saved.').waitFor();
    expect(param('plan')).to.match(/^\d+$/);

    const tasks = await download('Markdown');
    expect(tasks).to.contain('# Before the spring fair');
    expect(tasks).to.contain('Owner: Ivy · Due: 2026-12-01 · State: started');
    expect(tasks).to.match(/```diff\n-/);
    expect((await download('CSV')).split('\r\n')).to.have.length(found.length + 2);

    // Opened anew without an address, the plan comes back with everything in it.
    await page.evaluate(() => localStorage.clear());
    await open('/sites/1/plan');
    await page.getByText('Nothing is on the bench').waitFor();
    await page.getByRole('button', { name: 'Before the spring fair', exact: true }).click();
    await page
      .locator('.fix-table tbody tr')
      .nth(found.length - 1)
      .waitFor();
    expect(await page.getByLabel(`Owner of ${first}`).inputValue()).to.equal('Ivy');
    expect(await text('.bench-bar b')).to.match(/\d\.\d s/);
  });

  it('says how near one can come when a target is out of reach, and refuses nonsense', async () => {
    await open('/sites/1/plan');
    await page.getByLabel('Target in seconds').fill('0.2');
    await page.getByLabel('Target in seconds').press('Enter');
    await page.getByText(/0\.2 s is out of reach by the fixes known to us. Nearest: .* → /).waitFor();
    await page.getByLabel('Target in seconds').fill('soon');
    await page.getByText('Seconds go from above 0 to 60.').waitFor();
    expect(await page.getByRole('button', { name: 'Find the fewest fixes' }).isDisabled()).to.equal(true);
  });

  it('reorders by keyboard and undoes, compares plans, deletes one and brings it back', async () => {
    await open('/sites/1/plan');
    await page.getByRole('button', { name: /Add all worthwhile fixes/ }).click();
    await page.locator('.fix-table tbody tr').nth(2).waitFor();
    const order = () => page.locator('.fix-table tbody b').allInnerTexts();
    const [a, b, ...rest] = await order();
    await page.locator('.fix-table tbody tr').first().focus();
    await page.keyboard.press('Alt+ArrowDown');
    expect(await order()).to.deep.equal([b, a, ...rest]);
    await page.keyboard.press('u');
    expect(await order()).to.deep.equal([a, b, ...rest]);
    await page.getByLabel('Name of the plan').fill('Everything that pays');
    await page.getByRole('button', { name: 'Save as a plan' }).click();
    await page.getByLabel('Compare Everything that pays').check();
    await page.getByRole('img', { name: /plans compared by hero paint/ }).waitFor();
    expect(await page.locator('.compare-table tbody tr').first().innerText()).to.match(/Hero paint .LCP.\s+\d/);
    await page.getByRole('button', { name: 'Delete Everything that pays' }).click();
    await page.getByText('Everything that pays is deleted.').waitFor();
    await page.locator('.notice').getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('button', { name: 'Everything that pays', exact: true }).waitFor();
    // A name that is taken is refused in words, and nothing is lost.
    await page.getByLabel('Name of the plan').fill('Everything that pays');
    await page.getByRole('button', { name: 'Save as a plan' }).click();
    await page.getByRole('alert').getByText('There is a plan "Everything that pays" already.').waitFor();
  });

  it('reckons for one page, and gives its load re-timed', async () => {
    await glasshouse();
    const id = /pages\/(\d+)/.exec(page.url())?.[1];
    await page.getByLabel('Pages that the bench is about').selectOption({ label: 'this page only: The glasshouse' });
    await page
      .locator('.bench')
      .getByText(/^This page, phone/)
      .waitFor();
    const hero = /hero (\d+\.\d s)/.exec((await page.locator('.story svg').innerHTML()) ?? '')?.[1];
    await page.waitForFunction((t) => document.querySelector('.bench-bar')?.textContent?.includes(t), hero ?? '?');
    await open(`/sites/1/plan?scope=${encodeURIComponent(param('scope') ?? '')}`);
    await page.getByRole('button', { name: /Add all worthwhile fixes/ }).click();
    const har = JSON.parse(await download('HAR with forecast timings')) as {
      log: { version: string; pages: { _lens: { lcpMs: number } }[] };
    };
    expect(har.log.version).to.equal('1.2');
    const after = Number.parseFloat(await text('h1 b'));
    expect((har.log.pages[0]?._lens.lcpMs ?? 0) / 1000).to.be.closeTo(after, 0.06);
    expect(id).to.be.a('string');
  });

  it('travels along what the hero waits for, zooms, and lists the loads of a span', async () => {
    await glasshouse();
    await page.locator('.story-travel').focus();
    await page.keyboard.press('ArrowRight');
    await page.getByText(/^1 of \d+$/).waitFor();
    await page.keyboard.press('End');
    expect(await text('.story-line')).to.contain('hero paint (LCP)');
    await page.keyboard.press('ArrowLeft');
    expect(await text('.story-line')).to.match(/glasshouse-dawn\.jpg.*(arriving|asked for)/s);
    await page.keyboard.press('+');
    await page
      .locator('.story svg')
      .getByText(/^\d+ ms$/)
      .first()
      .waitFor();
    await page.keyboard.press('0');
    await page.keyboard.press('Escape');
    await page.getByText('Point at a load for its times').waitFor();
    const box = await page.locator('.story svg').boundingBox();
    const [x, y] = [(box?.x ?? 0) + 120, (box?.y ?? 0) + 30];
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + 220, y, { steps: 4 });
    await page.mouse.up();
    await page.getByRole('region', { name: 'Loads in the span' }).getByText('kit.js').waitFor();
    await page.getByRole('button', { name: 'Zoom to it' }).click();
    await page.getByRole('region', { name: 'Loads in the span' }).waitFor({ state: 'detached' });
    await page
      .getByText(/other loads, .* · open/)
      .first()
      .click();
    expect(await page.locator('.bar.rest').count()).to.be.above(5);
  });

  it('finds pages, fixes and actions by name', async () => {
    await open('/sites/1');
    await page.locator('h1 em').waitFor();
    await page.keyboard.press('Control+k');
    await page.getByLabel('Find', { exact: true }).fill('plant sale');
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { name: 'Plant sale' }).waitFor();
    await page.getByRole('button', { name: 'Find Ctrl K' }).click();
    await page.getByLabel('Find', { exact: true }).fill('Preload the heroes');
    await page.keyboard.press('Enter');
    await page.locator('.bench-list li', { hasText: 'Preload the heroes' }).waitFor();
    await page.keyboard.press('Control+k');
    await page.getByLabel('Find', { exact: true }).fill('no such thing at all');
    await page.getByText('Nothing has a name like that.').waitFor();
  });

  it('makes up a visitor, shows what that does, uses it everywhere, and deletes it with a way back', async () => {
    await open('/sites/1');
    const phone = await text('h1 em');
    await page.getByRole('button', { name: 'Other visitors' }).click();
    await page.getByRole('menuitem', { name: 'New visitor …' }).click();
    await page.getByLabel('Round trip, ms').fill('-4');
    await page.getByText('Round trip goes from 0 to 3,000 ms.').waitFor();
    await page.getByLabel('Round trip, ms').fill('600');
    await page.locator('.visitor-preview td.strong', { hasText: /\d s$/ }).first().waitFor();
    await page.getByLabel('Name', { exact: true }).fill('Far away');
    await page.getByRole('button', { name: 'Save and use' }).click();
    await page.getByRole('heading', { name: /A visitor \(Far away\) waits/ }).waitFor();
    expect(Number.parseFloat(await text('h1 em'))).to.be.above(Number.parseFloat(phone));
    expect(param('visitor')).to.contain('rtt=600');
    await page.getByRole('button', { name: /Visitor: Far away/ }).click();
    await page.getByRole('menuitem', { name: 'New visitor …' }).click();
    await page.getByRole('button', { name: 'Delete Far away' }).click();
    await page.getByText('Far away is deleted.').waitFor();
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('button', { name: 'Delete Far away' }).waitFor();
  });

  it('opens the list behind a fix, and what was not examined', async () => {
    await open('/sites/1');
    await page.locator('.plain-link').first().waitFor();
    const fix = await text('.plain-link');
    await page.locator('.plain-link').first().click();
    await page.getByText(`Only what “${fix}” removes.`).waitFor();
    await page.locator('.findings > li').first().waitFor();
    // Before its island is awake a filter is a link like any other, with a place in the history.
    await untilAwake(page);
    await page.getByRole('button', { name: 'Clear filters' }).click();
    await page.getByText(`Only what “${fix}” removes.`).waitFor({ state: 'detached' });
    await page.goBack();
    await page.waitForURL((url) => url.pathname === '/sites/1');
    await untilAwake(page);
    await page.getByRole('link', { name: 'not examined' }).click();
    await page.getByText('Second visits:').waitFor();
  });

  it('opens from each count of the Brief a list with just as many causes', async () => {
    await open('/sites/1');
    const counts = page.locator('.concerns .harm-count');
    await counts.first().waitFor();
    const n = await counts.count();
    expect(n).to.be.above(5);
    for (let i = 0; i < n; i++) {
      const causes = Number((await counts.nth(i).locator('b').innerText()).replace(/\D/g, ''));
      await counts.nth(i).click();
      await page.getByText(new RegExp(`^${causes} causes?, `)).waitFor();
      expect(await page.locator('.findings > li').count()).to.equal(causes);
      await page.goBack();
      await counts.first().waitFor();
    }
  });

  it('opens from each line of "Mend first" that cause, and from each sum as many', async () => {
    await open('/sites/1');
    const mend = page.getByRole('region', { name: 'Mend first' });
    await mend.getByRole('link').first().waitFor();
    const n = await mend.getByRole('link').count();
    expect(n).to.be.above(3);
    for (let i = 0; i < n; i++) {
      const link = mend.getByRole('link').nth(i);
      const text = await link.innerText();
      const sum = /^all (\d+) of /.exec(text)?.[1];
      await link.click();
      if (sum === undefined) {
        await page.getByText('Only one cause.').waitFor();
        await page.locator('.findings > li').first().waitFor();
        expect(await page.locator('.findings > li').allInnerTexts()).to.have.length(1);
        expect(await page.locator('.findings > li').innerText()).to.contain(text);
      } else {
        await page.getByText(new RegExp(`^${sum} causes?, `)).waitFor();
        expect(await page.locator('.findings > li').count()).to.equal(Number(sum));
      }
      await page.goBack();
      await mend.getByRole('link').first().waitFor();
    }
  });

  it('shows what the sweep saw of HTTPS, and leads to the page', async () => {
    await open('/sites/1/concerns/https');
    const seen = page.getByRole('region', { name: 'Seen by the sweep' });
    await seen.getByText(/Temporary redirects from http/).waitFor();
    await seen.locator('details[open] a').first().click();
    await page.getByRole('tab', { name: 'Facts' }).waitFor();
    expect(new URL(page.url()).pathname).to.match(/^\/sites\/1\/facts\/\d+$/);
  });

  it('says what is new and gone since the sweep before, and opens the list behind each', async () => {
    await open('/sites/1');
    const news = page.getByRole('region', { name: 'News' });
    await news
      .getByRole('heading', { name: /^Since \d+ \w+ \d{4} 1 back again, \d+ new, \d+ resolved; \d+ unchanged$/ })
      .waitFor();
    await news.getByRole('link', { name: /The hero has loading=lazy/ }).click();
    await page.getByText('Only one cause.').waitFor();
    await page.locator('.findings > li').first().waitFor();
    expect(await page.locator('.findings > li').count()).to.equal(1);
    await page.goBack();
    // What is gone is shown in the sweep that had it.
    await news.getByRole('link', { name: /carousel\.js blocks parsing/ }).click();
    await page.locator('.findings > li', { hasText: 'carousel.js' }).waitFor();
    expect(param('sweep')).to.equal('1');
    await page.getByRole('link', { name: 'Brief' }).click();
    await news.getByRole('heading', { name: /^Since 1 Oct 2026/ }).waitFor();
    const { sweeps } = (await (await fetch(`${server.url}/api/sites/1`)).json()) as { sweeps: { id: number }[] };
    await open(`/sites/1?sweep=${sweeps.at(-1)?.id}`);
    await page.getByText('This is the first sweep with recordings').waitFor();
  });

  it('goes through a server that fails without losing what is on the screen', async () => {
    await open('/sites/1/plan');
    await page.getByRole('button', { name: /Add all worthwhile fixes/ }).click();
    await page.route('**/api/sites/1/plans', (r) => (r.request().method() === 'POST' ? r.abort() : r.continue()));
    await page.getByLabel('Name of the plan').fill('Lost');
    await page.getByRole('button', { name: 'Save as a plan' }).click();
    await page.getByRole('alert').getByText('The server does not respond.').waitFor();
    expect(await page.getByLabel('Name of the plan').inputValue()).to.equal('Lost');
    await page.unroute('**/api/sites/1/plans');
    await page.getByRole('button', { name: 'Save as a plan' }).click();
    await page.getByText('Lost is saved.').waitFor();
  });

  it('reads the recorded pages once, whichever visitor they are forecast for', async () => {
    await open('/sites/1');
    const read = page.waitForResponse((r) => r.url().includes('/bench?'));
    await page.locator('.rows .put').first().click();
    await read;
    const again: string[] = [];
    page.on('request', (r) => r.url().includes('/bench?') && again.push(r.url()));
    await page.locator('.bench-bar svg path').first().waitFor();
    const phones = await text('h1');
    await page.getByRole('radio', { name: 'Phone, wifi' }).click();
    await page.waitForFunction((was) => document.querySelector('h1')?.textContent !== was, phones);
    await page.locator('.bench-bar svg path').first().waitFor();
    await page.evaluate(() => new Promise((done) => requestIdleCallback(() => done(undefined), { timeout: 3000 })));
    await page.locator('.rows .put').nth(1).click();
    await page.locator('.bench-bar svg path').first().waitFor();
    expect(again).to.deep.equal([]);
  });

  it('keeps a deep link: visitor, bench, scope and tab', async () => {
    await glasshouse();
    await page.getByRole('tab', { name: 'Source' }).click();
    await page.getByRole('radio', { name: 'Phone, wifi' }).click();
    await page.getByRole('button', { name: 'Put on the bench' }).click();
    await page.locator('.bench-list li').first().waitFor();
    const link = page.url();
    await page.evaluate(() => localStorage.clear());
    await page.goto('about:blank');
    await openAwake(page, link);
    await page.locator('.source .cm-content').waitFor();
    await page.locator('.bench-list li').first().waitFor();
    expect(await page.getByRole('radio', { name: 'Phone, wifi' }).getAttribute('aria-checked')).to.equal('true');
  });
});
