import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { openAwake } from '../fixtures/awake';
import { startBrowser, startDemo, type TestServer } from '../fixtures/server';
import { madeSite, type MadeSite } from '../fixtures/site';
import { askApi } from '../fixtures/jobs';
import { tempFolder } from '../fixtures/temp';

describe('ui: Watch', () => {
  let server: TestServer;
  let browser: Browser;
  let page: Page;
  let site: MadeSite;
  let price = 'four';
  const data = tempFolder('watch-ui');
  const errors: string[] = [];

  before(async () => {
    server = await startDemo(data.folder);
    browser = await startBrowser();
    site = await madeSite((at) =>
      at === '/' ? `<!doctype html><title>Sale</title><p class="price">Ferns cost ${price} pounds.</p>` : undefined,
    );
  });
  after(async () => {
    await browser.close();
    await server.stop();
    await site.close();
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

  it('shows notices, and marks them as read everywhere', async () => {
    await open('/sites/1/watch');
    await page.getByText('Limit broken: Hero paint (LCP) of the site: at most 5.0 s').waitFor();
    const unread = await page.locator('.notices .unread').count();
    const inRail = page.locator('.rail a', { hasText: 'Watch' });
    expect(await inRail.innerText()).to.match(new RegExp(`Watch\\s*${unread}$`));
    await page.getByLabel('Kind of notice').selectOption('findings');
    await page.waitForURL(/kind=findings/);
    expect(await page.locator('.notices > li').count()).to.equal(1);
    await page.getByRole('button', { name: 'Mark all as read' }).click();
    await page.waitForFunction(() => !document.querySelector('.notices .unread'));
    await page.waitForFunction(() => [...document.querySelectorAll('.rail a')].some((a) => a.textContent === 'Watch'));
  });

  it('adds, changes, switches off and deletes a schedule, and brings it back', async () => {
    await open('/sites/1/watch?view=schedules');
    await page.getByRole('button', { name: 'Add a schedule' }).click();
    const form = page.getByRole('form', { name: 'New schedule' });
    await form.getByLabel('How often').selectOption('own');
    await form.getByLabel('Minute, hour').fill('* * * * *');
    await form.getByLabel('Time zone').fill('Europe/Berlin');
    await form.getByRole('button', { name: 'Add it' }).click();
    await form.getByText('It would run more than once in 15 minutes.').waitFor();
    await form.getByLabel('How often').selectOption('week');
    await form.getByRole('combobox', { name: 'Day', exact: true }).selectOption('Friday');
    await form.locator('input[type=time]').fill('02:30');
    await page.keyboard.press('Enter');
    const row = page.locator('.watch-rows tbody tr');
    await row.getByText('every Friday at 02:30').waitFor();
    expect(await row.locator('td').nth(2).innerText()).to.match(/^Fri .*02:30$/);
    await row.getByRole('button', { name: 'Switch off' }).click();
    await row.getByText('switched off').waitFor();
    await row.getByRole('button', { name: 'Delete' }).click();
    await page.getByText('No schedule yet.').waitFor();
    await page.getByRole('button', { name: 'Undo' }).click();
    await row.getByText('every Friday at 02:30').waitFor();
  });

  it('judges a new limit at once, and leads to its history', async () => {
    await open('/sites/1/watch?view=limits');
    await page.getByRole('button', { name: 'Add a limit' }).click();
    const form = page.getByRole('form', { name: 'New limit' });
    await form.getByLabel(/^Pages/).selectOption({ label: 'The glasshouse' });
    await form.getByText(/^Now it is \d/).waitFor();
    await form.getByLabel('At most').fill('0.1');
    await form.getByRole('button', { name: 'Add it' }).click();
    const row = page.locator('.watch-rows tbody tr', { hasText: '/glasshouse/' });
    await row.getByText('broken', { exact: true }).waitFor();
    await row.getByRole('link', { name: 'History' }).click();
    await page.getByRole('img', { name: /Hero paint \(LCP\) from .* in 2 sweeps/ }).waitFor();
    expect(await page.locator('.history-point').count()).to.equal(2);
    await page.getByLabel('Figure').selectOption('findings');
    await page.getByRole('img', { name: /^Findings from \d+ on/ }).waitFor();
    const [file] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'CSV' }).click()]);
    expect(file.suggestedFilename()).to.equal('findings.csv');
  });

  it('shows what changed on a page, and leaves aside what is muted', async () => {
    const { value } = await askApi<{ id: number }>(`${server.url}/api/sites`, 'POST', { home: site.home });
    await askApi(`${server.url}/api/sites/${value.id}/settings`, 'PUT', { allowPrivate: true });
    await open(`/sites/${value.id}/watch?view=changes`);
    await page.getByLabel('Address of a page to watch').fill('https://elsewhere.example/');
    await page.getByRole('button', { name: 'Watch this page' }).click();
    await page.getByText('This address belongs to another site.').waitFor();
    await page.getByLabel('Address of a page to watch').fill(site.home);
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Look now' }).click();
    await page.getByText('No change has been seen.').waitFor();
    price = 'five';
    await page.getByRole('button', { name: 'Look now' }).click();
    const change = page.locator('.changes tr');
    await change.first().waitFor();
    expect(await change.locator('del').innerText()).to.equal('four');
    expect(await change.locator('ins').innerText()).to.equal('five');
    await change.getByRole('button', { name: 'Leave aside' }).click();
    await page.getByText('Left aside from now on: text at p.price.').waitFor();
  });

  it('saves where notices go, tries it, and says what is missing', async () => {
    await open('/sites/1/watch?view=messages');
    const ways = page.getByRole('form', { name: 'Where notices go' });
    await ways.getByLabel('Mail to').fill('owner@fernhollow.example');
    await ways.getByLabel('Webhook').fill('http://127.0.0.1:9/lens');
    await ways.getByRole('button', { name: 'Save' }).click();
    await ways.getByText('The secret of the webhook, shown this once').waitFor();
    await ways.getByRole('button', { name: 'Send a test message' }).click();
    await ways.getByText('mail to owner@fernhollow.example: No mail server is set.').waitFor();
    await ways.getByText(/^webhook to http:\/\/127\.0\.0\.1:9\/lens: connect ECONNREFUSED/).waitFor();
    await page.reload();
    await page.getByRole('form', { name: 'Mail server' }).getByLabel('Host').waitFor();
    expect(await ways.getByLabel('Secret').inputValue()).to.equal('•••');
  });
});
