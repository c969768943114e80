import { Command, Option } from 'commander';
import { DEFAULT_VISITOR, parseVisitor } from '../core/load/visitors';
import { readSteps } from '../core/capture/steps';
import { collect, printJson, progress, readAuth, readHeaders, readInput, wholeNumber, writeWhole } from './options';
import { VERSION } from '../core/version';

interface RecordFlags {
  output: string;
  visitor: string;
  mapHost?: string[];
  acceptAnyCertificate?: boolean;
  allowPrivate?: boolean;
  header?: string[];
  basicAuth?: string;
  runs: number;
  wait: number;
  timeout: number;
  network: 'recorded' | 'visitor';
  steps?: string;
  block?: string[];
  waitFor?: string;
  browser?: string;
  serviceWorkers: 'on' | 'off';
  json?: boolean;
}

/** `keen-lens record`: pages into a HAR with bodies and observations. */
export function recordCommand(): Command {
  return new Command('record')
    .description('Record pages with Chromium into a HAR file with bodies and observations.')
    .argument('<url...>', 'addresses of pages')
    .requiredOption('-o, --output <file>', 'HAR file to write')
    .option('--visitor <name or spec>', 'whose screen to record with', DEFAULT_VISITOR.id)
    .option('--map-host <host=ip>', 'HOST[:PORT]=IP[:PORT], may be repeated', collect)
    .option('--accept-any-certificate', 'go on when a certificate is not valid')
    .option('--allow-private', 'allow loopback and private addresses')
    .option('--header <name: value>', 'extra request header, may be repeated', collect)
    .option('--basic-auth <user:pass>', 'name and password for the page')
    .option('--runs <n>', 'record so many times, keep the run that was disturbed least (1: quick)', wholeNumber(1), 3)
    .option('--wait <ms>', 'quiet time that counts as done', wholeNumber(0), 1500)
    .option('--timeout <ms>', 'longest time for one page', wholeNumber(1000), 45_000)
    .addOption(
      new Option('--network <which>', 'link to record over').choices(['recorded', 'visitor']).default('recorded'),
    )
    .option('--steps <file>', 'JSON of steps to take first: log-in, consent; their cookies stay')
    .option('--block <host>', 'ask this host for nothing, may be repeated', collect)
    .option('--wait-for <selector>', 'what has to be on the page before it counts as loaded')
    .option('--browser <address>', 'use the browser at this debugging address, ws:// or http://; needs --allow-private')
    .addOption(
      new Option('--service-workers <which>', 'let pages install service workers')
        .choices(['on', 'off'])
        .default('off'),
    )
    .option('--json', 'print what was recorded as JSON')
    .addHelpText(
      'after',
      '\nExample:\n  keen-lens record https://www.fernhollow.example/visit/ -o visit.har --visitor desktop',
    )
    .action(async (urls: string[], flags: RecordFlags) => {
      const { recordPages } = await import('../engine/record/record');
      const { harFile } = await import('../engine/record/writeHar');
      const { ownPorts } = await import('../engine/store/serverLock');
      const { dataFolder } = await import('../engine/store/store');
      const pages = await recordPages(urls, {
        visitor: parseVisitor(flags.visitor),
        mapHosts: flags.mapHost,
        acceptAnyCertificate: flags.acceptAnyCertificate,
        allowPrivate: flags.allowPrivate,
        ownPorts: ownPorts(dataFolder()),
        headers: readHeaders(flags.header),
        basicAuth: readAuth(flags.basicAuth),
        network: flags.network,
        runs: flags.runs,
        waitMs: flags.wait,
        timeoutMs: flags.timeout,
        steps: flags.steps
          ? readSteps(Buffer.from(await readInput(flags.steps)).toString('utf8'), flags.steps)
          : undefined,
        blockHosts: flags.block,
        waitFor: flags.waitFor,
        browser: flags.browser,
        serviceWorkers: flags.serviceWorkers,
        onProgress: (text) => progress(`recording ${text}`),
      });
      await writeWhole(flags.output, harFile(pages, VERSION));
      const summary = pages.map((p) => ({ page: p.finalUrl, requests: p.requests, lcpMs: p.lcpMs, notes: p.notes }));
      if (flags.json) printJson({ file: flags.output, pages: summary });
      else
        for (const p of summary)
          progress(
            `${p.page}: ${p.requests} loads${p.lcpMs === undefined ? '' : `, hero paint (LCP) at ${Math.round(p.lcpMs)} ms`}${p.notes.map((n) => `\n  note: ${n}`).join('')}`,
          );
    });
}
