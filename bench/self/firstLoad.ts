import type { Browser } from 'playwright-core';

/** Most that the first load of a screen may bring, as transferred, in bytes. */
export const LIMITS = { scriptBytes: 170_000, styleBytes: 40_000 } as const;

/** A screen of the demo, and words that stand on it. */
export interface OwnScreen {
  readonly name: string;
  readonly path: string;
  readonly says: string;
}

/** Every kind of screen, on the demo's data: its first site, its later sweep, the page of its glasshouse. */
export const SCREENS: readonly OwnScreen[] = [
  { name: 'Sites', path: '/', says: 'Fernhollow Botanic Garden' },
  { name: 'Recorders', path: '/recorders', says: 'Add a recorder' },
  { name: 'People', path: '/people', says: 'Nobody has an account' },
  { name: 'Brief', path: '/sites/1', says: 'Slowest hero' },
  { name: 'HTTPS coverage', path: '/sites/1/concerns/https', says: 'Seen by the sweep' },
  { name: 'Mixed content', path: '/sites/1/concerns/mixed', says: 'plaque.css' },
  { name: 'Hero', path: '/sites/1/concerns/hero', says: 'The hero waits for a script' },
  { name: 'Weight', path: '/sites/1/concerns/weight', says: 'without compression' },
  { name: 'Blocking', path: '/sites/1/concerns/blocking', says: 'causes' },
  { name: 'Checks and limits', path: '/sites/1/checks', says: 'server-wait' },
  { name: 'Bench and plans', path: '/sites/1/plan', says: 'Nothing is on the bench' },
  { name: 'Handover', path: '/sites/1/handover', says: 'Owner' },
  { name: 'Pages', path: '/sites/1/pages', says: 'The glasshouse' },
  { name: 'Recorded pages', path: '/sites/1/pages?view=captured', says: 'The glasshouse' },
  { name: 'Files', path: '/sites/1/files', says: 'kit.js' },
  { name: 'Then & now', path: '/sites/1/compare', says: 'hero paint' },
  { name: 'Field data', path: '/sites/1/field', says: 'Field and lab' },
  { name: 'Watch', path: '/sites/1/watch', says: 'Limit broken' },
  { name: 'Page', path: '/sites/1/pages/20', says: 'The hero waits for a script' },
  { name: 'Page facts', path: '/sites/1/facts/110', says: 'Links in' },
  { name: 'New sweep', path: '/sites/1/sweep', says: 'Sweep' },
  { name: 'How far can I trust this?', path: '/sites/1/trust', says: 'off by' },
];

/** Window of a phone. */
export const PHONE = { width: 400, height: 860 } as const;
/** Layout shift that a first load may come to (Layout Instability API). */
export const MOST_SHIFT = 0.02;

/** How a phone's browser names itself (RFC 9110, 10.1.5). */
const PHONE_AGENT = 'Mozilla/5.0 (Linux; Android 14) AppleWebKit/537.36 Chrome/150.0.0.0 Mobile Safari/537.36';

/** What the first load of a screen brought. */
export interface FirstLoad {
  readonly scriptBytes: number;
  readonly styleBytes: number;
  readonly fontBytes: number;
  readonly pageBytes: number;
  /** First paint of content, ms. */
  readonly fcpMs: number;
  readonly cls: number;
  /** Errors of scripts and refusals of our own policy. */
  readonly faults: readonly string[];
}

/**
 * Opens a screen in a browser that has seen nothing of it, and waits until it listens and asks for nothing more.
 * @param lateFonts fonts come only once the page has been painted without them, as over a slow link
 */
export async function loadScreen(
  browser: Browser,
  address: string,
  viewport = { width: 1280, height: 800 },
  lateFonts = false,
): Promise<FirstLoad> {
  // The server draws for the width that it guesses from who asks.
  const phone = viewport.width < 600;
  const context = await browser.newContext({ viewport, ...(phone && { isMobile: true, userAgent: PHONE_AGENT }) });
  try {
    const page = await context.newPage();
    const faults: string[] = [];
    const bytes = { script: 0, stylesheet: 0, font: 0, document: 0 };
    page.on('pageerror', (e) => faults.push(e.message));
    page.on('console', (m) => m.type() === 'error' && faults.push(m.text()));
    // Of workers too: what they are made of is asked for by the page.
    page.on('requestfinished', (request) => {
      const kind = request.resourceType() as keyof typeof bytes | 'other';
      const counted = kind === 'other' && request.url().endsWith('.js') ? 'script' : kind;
      if (counted === 'other' || !(counted in bytes)) return;
      // What ends only as the page is closed has no size any more, and is no part of the first load.
      const counting = request.sizes().then(
        (s) => void (bytes[counted] += s.responseBodySize + s.responseHeadersSize),
        () => undefined,
      );
      pending.push(counting);
    });
    const pending: Promise<void>[] = [];
    if (lateFonts)
      await page.route('**/*.woff2', async (route) => {
        await page.waitForFunction(() => performance.getEntriesByName('first-contentful-paint').length > 0);
        await route.continue();
      });
    await page.goto(address);
    await page.waitForFunction(() => !document.querySelector('astro-island[client="load"]:not([data-awake])'));
    if (lateFonts) await page.evaluate(() => document.fonts.ready.then(() => undefined));
    // Whatever is on its way when the islands wake may push something aside as it comes.
    await page.waitForFunction(() => !document.querySelector('main [role="status"] .spinner'));
    await page.evaluate(() => new Promise((done) => requestIdleCallback(done, { timeout: 5000 })));
    await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => setTimeout(done))));
    await Promise.all(pending);
    const fcpMs = await page.evaluate(() => performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? 0);
    const cls = await page.evaluate(layoutShift);
    return {
      scriptBytes: bytes.script,
      styleBytes: bytes.stylesheet,
      fontBytes: bytes.font,
      pageBytes: bytes.document,
      fcpMs,
      cls,
      faults,
    };
  } finally {
    await context.close();
  }
}

/** Sum of the layout shifts so far that no input explains (Layout Instability API); the browser has kept them. */
function layoutShift(): Promise<number> {
  return new Promise((done) => {
    let sum = 0;
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries() as (PerformanceEntry & { value: number; hadRecentInput: boolean })[])
        if (!entry.hadRecentInput) sum += entry.value;
    }).observe({ type: 'layout-shift', buffered: true });
    // What was kept is handed over before the next task.
    setTimeout(() => done(sum), 50);
  });
}
