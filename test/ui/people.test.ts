import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { openAwake, untilAwake } from '../fixtures/awake';
import { madeRecorder, recorderToken } from '../fixtures/fleet';
import { hasRedis, startRedis, type TestRedis } from '../fixtures/redis';
import { putDemo, startBrowser, startServer, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';
import { openStore } from '../../src/engine/store/store';
import { faultsOf, tooWide } from '../fixtures/axe';

const PASSWORD = 'fern moss lichen bark';

describe('ui: people and recorders', () => {
  const data = tempFolder('ui-people');
  let server: TestServer;
  let browser: Browser;
  let page: Page;
  let redis: TestRedis | undefined;
  before(async () => {
    await putDemo(data.folder);
    if (hasRedis) redis = await startRedis();
    server = await startServer({ KEEN_LENS_DATA: data.folder, ...(redis && { KEEN_LENS_QUEUE: redis.address }) });
    browser = await startBrowser();
    page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  });
  after(async () => {
    await browser.close();
    await server.stop();
    await redis?.stop();
    data.remove();
  });
  const open = (to: string, at = page) => openAwake(at, server.url + to);

  it('shows recorders, what they do, and how to add one', async function () {
    if (!redis) this.skip();
    await open('/recorders');
    await page.getByText('No recorder has come yet.').waitFor();
    const store = await openStore(data.folder);
    const token = await recorderToken(store, 'attic token');
    await store.destroy();
    const recorder = await madeRecorder({ queue: redis.address, server: server.url, token, name: 'attic' });
    await page.getByRole('cell', { name: /^attic/ }).waitFor();
    await page.getByText('1 recorder known').waitFor();
    expect((await faultsOf(page)).join('\n')).to.equal('');
    await recorder.end();
    await page.getByRole('button', { name: 'Remove attic' }).click();
    await page.getByText('No recorder has come yet.').waitFor();
  });

  it('makes the first account by keyboard, and is logged in with it', async () => {
    await open('/');
    await page.getByRole('link', { name: 'People' }).click();
    await untilAwake(page);
    await page.getByText('Nobody has an account').waitFor();
    expect((await faultsOf(page)).join('\n')).to.equal('');
    await page.getByLabel('Name', { exact: true }).focus();
    await page.keyboard.type('ada');
    await page.keyboard.press('Tab');
    await page.keyboard.type('too short');
    await page.keyboard.press('Enter');
    await page.getByText('A password needs at least 12 characters.').waitFor();
    await page.getByLabel('Password', { exact: true }).fill(PASSWORD);
    await page.keyboard.press('Enter');
    await page.getByText('1 person has an account, 1 administrator among them.').waitFor();
    await page.getByRole('button', { name: 'Log out' }).waitFor();
  });

  it('gives somebody a role on one site, who logs in and sees only that', async () => {
    await open('/people');
    await page.getByLabel('Name', { exact: true }).fill('ben');
    await page.getByLabel('Password', { exact: true }).fill(PASSWORD);
    await page.getByLabel('Role on all sites').selectOption('');
    await page.getByLabel('Give a role on a site').selectOption({ label: 'Fernhollow Botanic Garden' });
    await page.getByRole('button', { name: 'Add', exact: true }).click();
    await page.getByText('ben has an account.').waitFor();
    await page.getByText('fixer of Fernhollow Botanic Garden').waitFor();
    expect((await faultsOf(page)).join('\n')).to.equal('');
    const other = await (await browser.newContext({ javaScriptEnabled: false })).newPage();
    await other.goto(`${server.url}/sites/1`);
    expect(new URL(other.url()).pathname).to.equal('/login');
    await other.getByLabel('Name').fill('ben');
    await other.getByLabel('Password').fill('something else again');
    await other.getByRole('button', { name: 'Log in' }).click();
    await other.getByText('Name or password is wrong.').waitFor();
    await other.getByLabel('Password').fill(PASSWORD);
    await other.keyboard.press('Enter');
    await other.getByRole('heading', { level: 1 }).waitFor();
    // What a role may not do is hidden by the style sheet.
    await other.waitForLoadState();
    expect(new URL(other.url()).pathname).to.equal('/sites/1');
    await other.getByRole('link', { name: 'Then & now' }).waitFor();
    expect(await other.getByRole('link', { name: 'New sweep' }).count()).to.equal(0);
    await other.goto(`${server.url}/sites/1/concerns/https`);
    await other.getByRole('button', { name: 'Details' }).first().waitFor();
    expect(await other.getByRole('button', { name: 'Mute' }).count()).to.equal(0);
    expect(await other.getByRole('button', { name: 'Probe' }).count()).to.equal(0);
    // What others change in a field, he reads.
    await other.goto(`${server.url}/sites/1/checks`);
    await other.getByRole('heading', { level: 1 }).waitFor();
    expect(await other.getByRole('spinbutton').count()).to.equal(0);
    expect(await other.locator('.limit').first().innerText()).to.match(/\d/);
    await other.goto(`${server.url}/`);
    await other.getByRole('link', { name: 'Fernhollow Botanic Garden' }).first().waitFor();
    expect(await other.getByRole('button', { name: 'put into a group' }).count()).to.equal(0);
    await other.goto(`${server.url}/people`);
    await other.getByText('You are logged in as ben.').waitFor();
    expect(await other.getByText('Who changed what').count()).to.equal(0);
    await other.getByRole('button', { name: 'Log out' }).click();
    await other.getByRole('button', { name: 'Log in' }).waitFor();
    await other.context().close();
  });

  it('offers an administrator what the others may not do', async () => {
    await open('/sites/1/concerns/https');
    await page.getByRole('link', { name: 'New sweep' }).waitFor();
    await page.getByRole('button', { name: 'Mute' }).first().waitFor();
    await page.getByRole('button', { name: 'Probe' }).first().waitFor();
    const size = page.viewportSize() ?? { width: 1280, height: 800 };
    for (const width of [1280, 1200, 1010]) {
      await page.setViewportSize({ ...size, width });
      expect(await tooWide(page), `sideways at ${width} px`).to.be.at.most(0);
    }
    await page.setViewportSize(size);
    await open('/sites/1/checks');
    await page.getByRole('spinbutton').first().waitFor();
    expect(await page.locator('[data-without]:visible').count()).to.equal(0);
  });

  it('changes a role, locks an account and lets it in again, and says who changed what', async () => {
    await open('/people');
    await page.getByRole('button', { name: 'Change role of ben' }).click();
    await page.getByRole('combobox', { name: /^On all sites/ }).selectOption('owner');
    await page.getByRole('button', { name: 'Save the role' }).click();
    await page.getByText('owner, fixer of Fernhollow Botanic Garden').waitFor();
    await page.getByRole('button', { name: 'Lock ben' }).click();
    await page.getByText('may not log in since').waitFor();
    await page.getByRole('button', { name: 'Unlock ben' }).click();
    await page.getByText('may not log in since').waitFor({ state: 'detached' });
    await page.reload();
    await untilAwake(page);
    await page.getByRole('cell', { name: 'changed an account' }).first().waitFor();
    await page.getByLabel('Name of the account').fill('ben');
    await page.getByRole('cell', { name: 'logged in', exact: true }).waitFor();
  });

  it('deletes an account only after asking', async () => {
    await open('/people');
    await page.getByLabel('Name', { exact: true }).fill('ida');
    await page.getByLabel('Password', { exact: true }).fill(PASSWORD);
    await page.getByRole('button', { name: 'Add', exact: true }).click();
    await page.getByText('ida has an account.').waitFor();
    await page.getByRole('button', { name: 'Delete ida' }).click();
    await page.getByRole('dialog').getByText('Delete the account of ida?').waitFor();
    await page.keyboard.press('Escape');
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await page.getByRole('cell', { name: 'ida', exact: true }).waitFor();
    await page.getByRole('button', { name: 'Delete ida' }).click();
    await page.getByRole('dialog').getByRole('button', { name: 'Delete', exact: true }).click();
    await page.getByRole('cell', { name: 'ida', exact: true }).waitFor({ state: 'detached' });
  });

  it('shows a token once, and deletes it', async () => {
    await open('/people');
    await page.getByLabel('What it is for').fill('nightly report');
    await page.getByRole('button', { name: 'Make a token' }).click();
    await page.getByText(/kl_[\w-]{43}/).waitFor();
    await page.reload();
    await untilAwake(page);
    expect(await page.getByText(/kl_[\w-]{43}/).count()).to.equal(0);
    await page.getByRole('button', { name: 'Delete the token nightly report' }).click();
    await page.getByRole('cell', { name: 'nightly report', exact: true }).waitFor({ state: 'detached' });
  });

  it('brings what somebody else saves into a plan that is open, beside what is at hand', async () => {
    await open('/sites/1/plan');
    await page.getByRole('button', { name: 'Put on the bench' }).first().click();
    await page.getByLabel('Name of the plan').fill('Together');
    await page.getByRole('button', { name: 'Save as a plan' }).click();
    await page.getByText('Together is saved.').waitFor();
    const second = await page.context().newPage();
    await second.goto(page.url());
    await untilAwake(second);
    await second.getByRole('button', { name: 'Together', exact: true }).click();
    // Here an owner, at hand and not saved yet; there a date, which is saved.
    await page
      .getByLabel(/^Owner of/)
      .first()
      .fill('Ada');
    await second
      .getByLabel(/^Due date of/)
      .first()
      .fill('2026-12-24');
    await second.getByRole('button', { name: 'Save “Together” over' }).click();
    await page.getByText('Somebody else has saved this plan: their changes are here.').waitFor();
    expect(
      await page
        .getByLabel(/^Owner of/)
        .first()
        .inputValue(),
    ).to.equal('Ada');
    expect(
      await page
        .getByLabel(/^Due date of/)
        .first()
        .inputValue(),
    ).to.equal('2026-12-24');
    await second.close();
  });
});
