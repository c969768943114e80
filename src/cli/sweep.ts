import { hostOf } from '../core/capture/url';
import { Command, Option } from 'commander';
import { InputError, PageError } from '../core/capture/errors';
import { pagesCsv, PAGE_COLUMNS, type PageColumn } from '../core/handover/pagesTable';
import { scopeOf } from '../core/site/scope';
import { PRESETS, type SweepSettings } from '../core/site/settings';
import { readUrlList, urlsOf } from '../core/site/urlList';
import type { Store } from '../engine/store/store';
import { collect, printJson, progress, readAuth, readHeaders, readInput, wholeNumber, writeWhole } from './options';

interface SweepFlags {
  data?: string;
  preset?: 'gentle' | 'normal' | 'own-server';
  links: boolean;
  sitemaps: boolean;
  list?: string;
  listColumn?: string;
  subdomains?: boolean;
  include?: string[];
  exclude?: string[];
  ignoreParameter?: string[];
  maxPages?: number;
  maxDepth?: number;
  perSecond?: number;
  parallel?: number;
  robots: boolean;
  obeyNoindex?: boolean;
  obeyNofollow?: boolean;
  userAgent?: string;
  header?: string[];
  basicAuth?: string;
  mapHost?: string[];
  allowPrivate?: boolean;
  acceptAnyCertificate?: boolean;
  captures?: number;
  captureOrder?: 'template-size' | 'links-in';
  device?: ('phone' | 'desktop')[];
  pin?: string[];
  resume?: boolean;
  csv?: string;
  json?: boolean;
}

/** `keen-lens sweep`: a whole site into the database, as the web application does it. */
export function sweepCommand(): Command {
  return new Command('sweep')
    .description("Visit a site's pages, keep their facts, record those that matter. Ctrl C pauses; --resume goes on.")
    .argument('<home>', 'home address of the site')
    .option('--data <dir>', 'folder for the database')
    .addOption(new Option('--preset <pace>', 'request rate').choices(PRESETS.map((p) => p.id)))
    .option('--no-links', 'do not follow links')
    .option('--no-sitemaps', 'do not read sitemaps')
    .option('--list <file>', 'txt or csv with addresses')
    .option('--list-column <name>', 'column of the csv; the one with most addresses without it')
    .option('--subdomains', 'subdomains belong to the site')
    .option('--include <pattern>', 'only addresses like this, such as /talks/ or *.html, may be repeated', collect)
    .option('--exclude <pattern>', 'no addresses like this, may be repeated', collect)
    .option('--ignore-parameter <name>', 'query parameter that makes no other page, may be repeated', collect)
    .option('--max-pages <n>', 'pages at most', wholeNumber(1))
    .option('--max-depth <n>', 'links from the home page at most', wholeNumber(0))
    .option('--per-second <n>', 'requests a second to a host, 0 for no limit', Number)
    .option('--parallel <n>', 'requests at a time to a host', wholeNumber(1))
    .option('--no-robots', 'ignore robots.txt')
    .option('--obey-noindex', 'leave out pages marked noindex')
    .option('--obey-nofollow', 'do not follow links marked nofollow')
    .option('--user-agent <text>', 'user agent to send')
    .option('--header <name: value>', 'extra request header, may be repeated', collect)
    .option('--basic-auth <user:pass>', 'name and password for the site')
    .option('--map-host <host=ip>', 'HOST[:PORT]=IP[:PORT], may be repeated', collect)
    .option('--allow-private', 'allow loopback and private addresses')
    .option('--accept-any-certificate', 'go on when a certificate is not valid')
    .option('--captures <n>', 'pages to record with a browser, 0 for none', wholeNumber(0))
    .addOption(
      new Option('--capture-order <order>', 'which come first').choices(['template-size', 'links-in', 'all-pages']),
    )
    .addOption(new Option('--device <device...>', 'record as').choices(['phone', 'desktop']))
    .option('--pin <address>', 'page to record in any case, may be repeated', collect)
    .option('--resume', "go on with this site's sweep that was paused or cut off")
    .option('--csv <file>', 'write the table of pages')
    .option('--json', 'print the result as JSON')
    .addHelpText(
      'after',
      '\nExample:\n  keen-lens sweep https://www.fernhollow.example/ --preset gentle --exclude /private/ --csv pages.csv',
    )
    .action(sweep);
}

async function sweep(home: string, flags: SweepFlags): Promise<void> {
  const { dataFolder, openStore } = await import('../engine/store/store');
  const store = await openStore(flags.data ?? dataFolder());
  try {
    const { runOwnSweep } = await import('../engine/jobs/runOwnSweep');
    const address = homeOf(home);
    const result = await runOwnSweep(store, {
      home: address,
      resume: flags.resume ?? false,
      settings: (stored) => settingsOf(stored, address, flags),
      onProgress: reporter(),
    });
    const { job, sweepId } = result;
    if (flags.csv && sweepId) await writeCsv(store, sweepId, flags.csv);
    if (flags.json) printJson(await summary(store, result));
    else if (sweepId) progress(await sentence(store, sweepId));
    if (job.state === 'paused') progress('Paused. Go on with: keen-lens sweep ' + address + ' --resume');
    if (job.error) throw new PageError(job.error.what, job.error.where, job.error.next);
  } finally {
    await store.destroy();
  }
}

function homeOf(text: string): string {
  try {
    const url = new URL(/^https?:\/\//i.test(text) ? text : `https://${text}`);
    return url.href;
  } catch {
    throw new InputError(`"${text}" is not a web address.`, 'home', 'Write it like https://www.fernhollow.example/.');
  }
}

/** Settings of the site with what was asked for put over them. @throws InputError */
async function settingsOf(stored: SweepSettings, home: string, flags: SweepFlags): Promise<SweepSettings> {
  const preset = PRESETS.find((p) => p.id === flags.preset);
  if (flags.perSecond !== undefined && !(flags.perSecond >= 0))
    throw new InputError('A rate is a number from 0 up.', '--per-second', 'Write --per-second 2.');
  const list = flags.list ? await readList(flags.list, flags.listColumn, home) : stored.list;
  const settings: SweepSettings = {
    ...stored,
    ...preset?.values,
    home,
    followLinks: flags.links,
    sitemaps: flags.sitemaps,
    list,
    subdomains: flags.subdomains ?? stored.subdomains,
    include: flags.include ?? stored.include,
    exclude: flags.exclude ?? stored.exclude,
    ignoreParameters: flags.ignoreParameter ?? stored.ignoreParameters,
    maxPages: flags.maxPages ?? stored.maxPages,
    maxDepth: flags.maxDepth ?? stored.maxDepth,
    perSecond: flags.perSecond ?? preset?.values.perSecond ?? stored.perSecond,
    parallel: flags.parallel ?? preset?.values.parallel ?? stored.parallel,
    obeyRobots: flags.robots,
    obeyNoindex: flags.obeyNoindex ?? stored.obeyNoindex,
    obeyNofollow: flags.obeyNofollow ?? stored.obeyNofollow,
    userAgent: flags.userAgent ?? stored.userAgent,
    headers: flags.header
      ? Object.entries(readHeaders(flags.header) ?? {}).map(([name, value]) => ({ name, value }))
      : stored.headers,
    basicAuth: readAuth(flags.basicAuth) ?? stored.basicAuth,
    mapHosts: flags.mapHost ?? stored.mapHosts,
    allowPrivate: flags.allowPrivate ?? preset?.values.allowPrivate ?? stored.allowPrivate,
    acceptAnyCertificate: flags.acceptAnyCertificate ?? stored.acceptAnyCertificate,
    captures: {
      ...stored.captures,
      maxPages: flags.captures ?? stored.captures.maxPages,
      order: flags.captureOrder ?? stored.captures.order,
      devices: flags.device ?? stored.captures.devices,
      pins: flags.pin ?? stored.captures.pins,
    },
  };
  if (!settings.followLinks && !settings.sitemaps && list.length === 0)
    throw new InputError('The sweep has no source of pages.', '--no-links --no-sitemaps', 'Give a --list.');
  scopeOf(settings);
  return settings;
}

async function readList(file: string, column: string | undefined, home: string): Promise<string[]> {
  const list = readUrlList(Buffer.from(await readInput(file)).toString('utf8'));
  const at = column === undefined ? list.column : list.columns.indexOf(column);
  if (at < 0)
    throw new InputError(`The list has no column "${column ?? ''}".`, file, `It has: ${list.columns.join(', ')}.`);
  const { urls } = urlsOf(list, at, home);
  if (urls.length === 0) throw new InputError('The list has no address in it.', file, 'Write one address a line.');
  return urls;
}

/** Says what is going on, at most once a second. */
function reporter(): (line: string) => void {
  let last = 0;
  return (line) => {
    if (Date.now() - last < 1000) return;
    last = Date.now();
    progress(line);
  };
}

async function writeCsv(store: Store, sweepId: number, file: string): Promise<void> {
  const { listPages } = await import('../engine/store/pageList');
  const window = { sort: 'url', descending: false, offset: 0, limit: 1_000_000 } as const;
  const { rows } = await listPages(store, sweepId, {}, window);
  await writeWhole(file, pagesCsv(rows, Object.keys(PAGE_COLUMNS) as PageColumn[]));
}

async function summary(store: Store, result: { job: { id: number; state: string }; sweepId: number | null }) {
  const { countPages } = await import('../engine/store/crawlPages');
  const { summarisePages } = await import('../engine/store/pageSummary');
  const { listNotes } = await import('../engine/store/sweepNotes');
  const { listRecordings } = await import('../engine/store/recordings');
  const { sweepId, job } = result;
  if (sweepId === null) return { job: job.id, state: job.state };
  const { statuses, depths, flags, templates } = await summarisePages(store, sweepId, {});
  return {
    job: job.id,
    state: job.state,
    sweep: sweepId,
    pages: await countPages(store, sweepId),
    statuses,
    depths,
    flags,
    templates,
    notes: await listNotes(store, sweepId),
    recordings: await listRecordings(store, job.id),
  };
}

async function sentence(store: Store, sweepId: number): Promise<string> {
  const { countPages } = await import('../engine/store/crawlPages');
  const { findSweep } = await import('../engine/store/sweeps');
  const c = await countPages(store, sweepId);
  const sweep = await findSweep(store, sweepId);
  const n = (x: number) => x.toLocaleString('en-GB');
  return `Sweep ${sweepId} of ${hostOf(sweep?.settings?.home ?? '')}: ${n(c.done)} pages visited, ${n(c.redirects)} redirects, ${n(c.missing)} answered with an error, ${n(c.failed)} failed, ${n(c.skipped)} left out, ${n(c.mentions)} http:// URLs.`;
}
