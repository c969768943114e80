import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { SCREENS } from '../../bench/self/firstLoad';
import { openAwake } from '../fixtures/awake';
import { faultsOf, tooWide } from '../fixtures/axe';
import { startBrowser, startDemo, type TestServer } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';

/** A view of a screen, and what there must be before it is looked at. */
interface View {
  readonly name: string;
  readonly path: string;
  readonly has?: string;
}

/** Views that are more than the first one of their screen. */
const VIEWS: readonly View[] = [
  { name: 'Story', path: '/sites/1/pages/20', has: '.story-line' },
  { name: 'Source', path: '/sites/1/pages/20?tab=source', has: '.source .cm-content' },
  { name: 'Loads', path: '/sites/1/pages/20?tab=loads', has: '.loads tbody tr' },
  { name: 'Facts of a recording', path: '/sites/1/pages/20?tab=facts' },
  { name: 'Pictures by file', path: '/sites/1/concerns/weight?type=image/jpeg&by=file' },
  { name: 'Files by host', path: '/sites/1/files?group=host' },
  { name: 'Schedules', path: '/sites/1/watch?view=schedules' },
  { name: 'Limits', path: '/sites/1/watch?view=limits' },
  { name: 'Changes', path: '/sites/1/watch?view=changes' },
  { name: 'History', path: '/sites/1/watch?view=history', has: '.history' },
  { name: 'Messages', path: '/sites/1/watch?view=messages', has: 'form' },
];

/** Every screen as the server sends it, on a desk in the light; and when it listens, also on a phone in the dark. */
describe('ui: accessibility', () => {
  let server: TestServer;
  let browser: Browser;
  let page: Page;
  const data = tempFolder('accessibility');
  const errors: string[] = [];

  before(async () => {
    server = await startDemo(data.folder);
    browser = await startBrowser();
    page = await (await browser.newContext({ reducedMotion: 'reduce' })).newPage();
    page.setDefaultTimeout(80_000);
    page.on('pageerror', (e) => errors.push(e.message));
  });
  after(async () => {
    await browser.close();
    await server.stop();
    data.remove();
  });

  for (const { name, path, has } of [...SCREENS, ...VIEWS] as readonly View[])
    it(`has no fault: ${name}`, async () => {
      await page.emulateMedia({ colorScheme: 'light' });
      await page.setViewportSize({ width: 1280, height: 800 });
      await page.route('**/*.js', (route) => route.abort());
      await page.goto(server.url + path);
      expect((await faultsOf(page, 'others')).join('\n'), 'as sent').to.equal('');
      expect(await tooWide(page), 'sideways, as sent').to.be.at.most(0);
      await page.unrouteAll();
      await page.emulateMedia({ colorScheme: 'dark' });
      await page.setViewportSize({ width: 390, height: 800 });
      await openAwake(page, server.url + path);
      await page
        .locator(has ?? 'main h1')
        .first()
        .waitFor();
      // Colours on their way from one theme to the other are neither's.
      await page.addStyleTag({ content: '*, ::before, ::after { transition: none !important }' });
      expect((await faultsOf(page)).join('\n'), 'on a phone in the dark').to.equal('');
      expect(await tooWide(page), 'sideways on a phone').to.be.at.most(0);
      await page.emulateMedia({ colorScheme: 'light' });
      await page.setViewportSize({ width: 1280, height: 800 });
      expect((await faultsOf(page, 'colours')).join('\n'), 'light').to.equal('');
      expect(await tooWide(page), 'sideways on a desk').to.be.at.most(0);
      expect(errors.splice(0)).to.deep.equal([]);
    });
});
