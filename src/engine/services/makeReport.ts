import { zipSync } from 'fflate';
import fs from 'node:fs/promises';
import { createRequire } from 'node:module';
import path from 'node:path';
import { hostOf } from '../../core/capture/url';
import { toCsv } from '../../core/handover/csv';
import { FINDING_COLUMNS, findingRows } from '../../core/handover/findingsTable';
import { auditorHtml } from '../../core/handover/report/auditor';
import type { Reader, ReportFacts, ReportPage } from '../../core/handover/report/facts';
import type { Format } from '../../core/handover/report/formats';
import { fixerHtml, fixerMarkdown } from '../../core/handover/report/fixer';
import { html } from '../../core/handover/report/html';
import { ownerHtml } from '../../core/handover/report/owner';
import { sentenceOf } from '../../core/handover/report/parts';
import { wordsOf } from '../../core/handover/report/words';
import { findingsSarif } from '../../core/handover/sarif';
import { TASK_COLUMNS, taskRows } from '../../core/handover/tasks';
import { VERSION } from '../../core/version';
import type { ReadCapture } from '../../core/capture/har';
import type { Audit } from '../../core/plan/audit';
import { InputError } from '../../core/capture/errors';
import { browserSwitches, findChromium } from '../record/chromium';
import { driver } from '../record/driver';
import { getBody } from '../store/bodies';
import { getCapture, listCaptures } from '../store/captures';
import { revisionOf } from '../store/kept';
import { listMutes } from '../store/mutes';
import { placesOf } from '../store/pagePlaces';
import { findSite } from '../store/sites';
import { listSweeps } from '../store/sweeps';
import type { Store } from '../store/store';
import { offerContext, openCapture } from './captureView';
import { fixerPackage } from './fixerPackage';
import { extrasState } from './reportExtras';
import { workbook, type Table } from './sheet';

/** Pages of a report from captures that were just read. */
export function pagesOfAudits(read: readonly { readonly read: ReadCapture; readonly audit: Audit }[]): ReportPage[] {
  return read.map(({ read: { capture, screenshot }, audit }) => ({
    page: capture.page,
    title: capture.title,
    device: capture.device,
    recordedAt: capture.recordedAt,
    graph: audit.graph,
    fixes: audit.fixes,
    findings: audit.findings,
    open: () => Promise.resolve(audit),
    notes: capture.notes,
    picture: screenshot,
  }));
}

/** Pages of a site's report at most: the recorded ones with the most links in come first. */
const MOST_PAGES = 60;

/** A sweep that is reported. `state` changes with all that its report is made from. */
export interface ReportedSweep {
  readonly siteId: number;
  readonly sweepId: number;
  readonly site: string;
  readonly day: string;
  readonly state: string;
}

/**
 * A sweep of a site; the latest that has captures if not stated.
 * @throws InputError when there is no such site or sweep, or nothing in it
 */
export async function reportedSweep(store: Store, siteId: number, sweepId?: number): Promise<ReportedSweep> {
  const site = await findSite(store, siteId);
  if (!site)
    throw new InputError(
      `There is no site ${siteId}.`,
      `site ${siteId}`,
      'The number stands in the address of its screens.',
    );
  const sweep = (await listSweeps(store, siteId)).find((s) =>
    sweepId === undefined ? s.captures > 0 : s.id === sweepId,
  );
  if (!sweep || sweep.captures === 0)
    throw new InputError(
      'Nothing of this site has been recorded.',
      site.name,
      'Start a sweep that records pages, or import captures.',
    );
  const state = JSON.stringify([
    site,
    sweep,
    await revisionOf(store, sweep.id),
    await listMutes(store, siteId),
    await extrasState(store, siteId),
  ]);
  return { siteId, sweepId: sweep.id, site: site.name, day: sweep.day, state };
}

/**
 * Pages of a sweep for its report. Their sources are read when they are asked for, from a store that is still open by then;
 * for a report that hands files over they are read at once, with the contents of all files.
 */
export async function pagesOfSweep(store: Store, { sweepId }: ReportedSweep, format?: Format): Promise<ReportPage[]> {
  const all = await listCaptures(store, sweepId);
  const places = await placesOf(
    store,
    sweepId,
    all.map((c) => c.page),
  );
  const linksIn = (row: (typeof all)[number]) => places.get(row.page)?.linksIn ?? 0;
  const chosen = [...all].sort((a, b) => linksIn(b) - linksIn(a)).slice(0, 2 * MOST_PAGES);
  const left = all.length - chosen.length;
  const pages: ReportPage[] = [];
  for (const row of chosen) {
    const full = await getCapture(store, row.id);
    if (!full) continue;
    const open = async () => {
      const opened = await openCapture(store, row.id, format === 'zip' ? 'all' : 'text');
      if (!opened) throw new InputError('A page was deleted while its report was made.', row.page, 'Make it again.');
      return offerContext(opened.full, opened.page);
    };
    const context = format === 'zip' ? await open() : undefined;
    const hash = row.screenshotHash;
    pages.push({
      page: full.capture.page,
      title: full.capture.title,
      device: full.capture.device,
      recordedAt: full.capture.recordedAt,
      graph: full.audit.graph,
      fixes: full.audit.fixes,
      findings: full.findings,
      open: context ? () => Promise.resolve(context) : open,
      notes: [
        ...full.capture.notes,
        ...(left > 0 ? [`${left} more recorded loads of pages with fewer links in are not in this report.`] : []),
      ],
      picture: hash ? await getBody(store, hash) : undefined,
    });
  }
  return pages;
}

/** Name and day of a report of files. */
export function aboutPages(pages: readonly ReportPage[]): { site: string; day: string } {
  const days = pages.map((p) => p.recordedAt.slice(0, 10)).sort();
  return { site: hostOf(pages[0]?.page ?? ''), day: days.at(-1) ?? '' };
}

/**
 * A report as a file. PDF is printed by the recorder's own Chromium.
 * @param onMissing hears of English texts that the report's language file has not
 */
export async function makeReport(
  facts: ReportFacts,
  reader: Reader,
  format: Format,
  onMissing?: (texts: readonly string[]) => void,
): Promise<Uint8Array> {
  const text = (value: string) => new TextEncoder().encode(value);
  const findings = facts.pages.flatMap((p) => p.findings);
  switch (format) {
    case 'json':
      return text(JSON.stringify(plainFacts(facts, reader), null, 2) + '\n');
    case 'zip':
      return reader === 'fixer' ? fixerPackage(facts) : tablesInZip(tablesOf(facts, reader));
    case 'sarif':
      return text(JSON.stringify(findingsSarif(findings, VERSION), null, 2) + '\n');
    case 'md':
      return text(fixerMarkdown(facts));
    case 'csv':
      return text(
        reader === 'fixer' ? toCsv(TASK_COLUMNS, taskRows(facts.fixes)) : toCsv(FINDING_COLUMNS, findingRows(findings)),
      );
    case 'xlsx':
      return workbook(tablesOf(facts, reader));
    case 'html':
    case 'pdf': {
      const words = wordsOf(facts);
      const written = { owner: ownerHtml, fixer: fixerHtml, auditor: auditorHtml }[reader](facts, words);
      if (words.missing.size > 0) onMissing?.([...words.missing]);
      const fonts = await fontRules();
      const whole = written.replace('<style>', () => `<style>${fonts}`);
      return format === 'html' ? text(whole) : printed(whole, words.text('{nPage} of {nPages}'));
    }
  }
}

/** The tables of a report: a sheet or a file each. */
function tablesOf(facts: ReportFacts, reader: Reader): Table[] {
  const findings = facts.pages.flatMap((p) => p.findings);
  return [
    ...(reader === 'auditor'
      ? [
          { name: 'Pages', columns: PAGE_COLUMNS, rows: pageRows(facts) },
          { name: 'Findings', columns: FINDING_COLUMNS, rows: findingRows(findings) },
        ]
      : []),
    { name: 'Tasks', columns: TASK_COLUMNS, rows: taskRows(facts.fixes) },
    {
      name: 'Not examined',
      columns: ['page', 'reason'],
      rows: facts.notExamined.map((n) => [n.what, n.why]),
    },
  ];
}

/** Every table as a CSV file. */
function tablesInZip(tables: readonly Table[]): Uint8Array {
  return zipSync(
    Object.fromEntries(
      tables.map((t) => [
        `${t.name.toLowerCase().replaceAll(' ', '-')}.csv`,
        new TextEncoder().encode(toCsv(t.columns, t.rows)),
      ]),
    ),
  );
}

const PAGE_COLUMNS = [
  'page',
  'title',
  'device',
  'recorded',
  'FCP, ms',
  'LCP, ms',
  'LCP with fixes, ms',
  'bytes',
  'findings',
];
const pageRows = (facts: ReportFacts) =>
  facts.pages.map((p) => [
    p.page,
    p.title,
    p.device,
    p.recordedAt,
    Math.round(p.now.fcpMs),
    Math.round(p.now.lcpMs),
    Math.round(p.after.lcpMs),
    p.now.bytes,
    p.findings.length,
  ]);

/** What a report says as plain data. */
function plainFacts(facts: ReportFacts, reader: Reader): object {
  const { head, visitor } = facts;
  return {
    version: 1,
    reader,
    site: head.site,
    day: head.day,
    visitor: visitor.id,
    sentence: sentenceOf(facts, wordsOf(facts)),
    heroPaint: { nowMs: head.nowMs, afterMs: head.afterMs, range: head.range },
    pages: facts.pages.map(({ page, title, device, recordedAt, now, after }) => ({
      page,
      title,
      device,
      recordedAt,
      now,
      after,
    })),
    ...(facts.since && { since: facts.since }),
    fixes: facts.fixes.filter((f) => reader !== 'owner' || f.worthwhile),
    safety: facts.safety.map(({ finding, pages }) => ({
      harm: finding.harm,
      title: finding.title,
      plain: finding.plain,
      pages,
    })),
    ...(reader === 'auditor' && { findings: facts.pages.flatMap((p) => p.findings) }),
    notExamined: facts.notExamined,
  };
}

const FONTS = [
  { family: 'Public Sans', from: '@fontsource-variable/public-sans', file: 'public-sans-latin-wght-normal.woff2' },
  {
    family: 'Source Serif 4',
    from: '@fontsource-variable/source-serif-4',
    file: 'source-serif-4-latin-wght-normal.woff2',
  },
];

/** The report's own fonts, so that it looks the same everywhere. */
async function fontRules(): Promise<string> {
  const require = createRequire(import.meta.url);
  const rules = await Promise.all(
    FONTS.map(async ({ family, from, file }) => {
      const bytes = await fs.readFile(path.join(path.dirname(require.resolve(`${from}/package.json`)), 'files', file));
      return `@font-face{font-family:"${family}";font-weight:200 900;src:url("data:font/woff2;base64,${bytes.toString('base64')}") format("woff2")}`;
    }),
  );
  return rules.join('\n');
}

/** HTML as a tagged PDF with outline and page numbers. Nothing in it runs, and nothing is fetched. */
async function printed(document: string, pageOf: string): Promise<Uint8Array> {
  const footer = html`${pageOf}`.text
    .replace('{nPage}', '<span class="pageNumber"></span>')
    .replace('{nPages}', '<span class="totalPages"></span>');
  const chromium = await driver();
  const browser = await chromium.launch({
    executablePath: findChromium(),
    headless: true,
    args: browserSwitches([], false, { mappedOnly: true }),
  });
  try {
    const context = await browser.newContext({ javaScriptEnabled: false, offline: true });
    const page = await context.newPage();
    await page.setContent(document, { waitUntil: 'load' });
    return await page.pdf({
      preferCSSPageSize: true,
      printBackground: true,
      tagged: true,
      outline: true,
      displayHeaderFooter: true,
      headerTemplate: '<span></span>',
      footerTemplate: `<div style="width:100%;font:8pt sans-serif;color:#5b665f;text-align:center">${footer}</div>`,
    });
  } finally {
    await browser.close();
  }
}
