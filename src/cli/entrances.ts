import { Command } from 'commander';
import { InputError } from '../core/capture/errors';
import { typedAddress } from '../core/site/address';
import { isGood, probeTargets } from '../core/site/entrances';
import { readUrlList, urlsOf } from '../core/site/urlList';
import { defaultSettings } from '../core/site/settings';
import type { ProbeReport } from '../engine/probe/probeEntrances';
import { VERSION } from '../core/version';
import { collect, printJson, progress, readInput } from './options';

interface EntrancesFlags {
  hosts?: string;
  deep?: string[];
  mapHost?: string[];
  allowPrivate?: boolean;
  json?: boolean;
}

/** `keen-lens entrances`: asks for every way into a site and says where each ends. */
export function entrancesCommand(): Command {
  return new Command('entrances')
    .description('Ask for every way into a site (http and https, with and without www) and say where each ends.')
    .argument('<address...>', 'web addresses or host names')
    .option('--hosts <file>', 'more hosts, one a line; asked for as they are')
    .option('--deep <address...>', 'pages to ask for by http, with the other host form and the other trailing slash')
    .option('--map-host <map>', 'HOST[:PORT]=IP[:PORT], may be repeated', collect)
    .option('--allow-private', 'allow loopback and private addresses')
    .option('--json', 'print the result as JSON')
    .addHelpText(
      'after',
      '\nExample:\n  keen-lens entrances www.fernhollow.example --deep https://www.fernhollow.example/visit/ --json',
    )
    .action(async (addresses: string[], flags: EntrancesFlags) => {
      const first = addresses.map((a) => typedAddress(a, 'address').href);
      const more = flags.hosts ? await hostsOf(flags.hosts, first[0] ?? '') : [];
      const deep = (flags.deep ?? []).map((d) => deepAddress(d, first[0] ?? ''));
      const targets = probeTargets(
        [...first.map((url) => ({ url })), ...more.map((url) => ({ url, alone: true }))],
        deep,
      );
      const { probeEntrances } = await import('../engine/probe/probeEntrances');
      const report = await probeEntrances(targets, {
        settings: {
          ...defaultSettings(first[0] ?? ''),
          mapHosts: flags.mapHost ?? [],
          allowPrivate: flags.allowPrivate ?? false,
        },
        signal: new AbortController().signal,
        onProgress: (done, total, now) => progress(`${done} of ${total}: ${now}`),
      });
      if (flags.json) printJson(entrancesJson(report));
      else printText(report);
    });
}

/** The report in the shape of the command line's contract. */
export function entrancesJson(report: ProbeReport): unknown {
  return {
    version: VERSION,
    askedAt: report.askedAt,
    entrances: report.entrances.map(({ from, family, hops, end, error, verdict, says }) => ({
      from,
      family,
      hops,
      end,
      error: error ?? null,
      verdict,
      says,
    })),
    certificates: report.certificates.map(
      ({
        host,
        names,
        covers,
        issuer,
        validFrom,
        validTo,
        daysLeft,
        chain,
        key,
        signature,
        oldestTls,
        newestTls,
        faults,
      }) => ({
        host,
        names,
        covers,
        issuer,
        validFrom,
        validTo,
        daysLeft,
        chain,
        key,
        signature,
        oldestTls,
        newestTls,
        faults,
      }),
    ),
    hsts: report.hsts,
  };
}

function printText(report: ProbeReport): void {
  for (const e of report.entrances) {
    console.log(`${isGood(e.verdict) ? ' ' : '!'} ${e.verdict.padEnd(18)} ${e.from} (${e.family})\n    ${e.says}`);
    if (e.hops.length > 1)
      console.log(`    ${e.hops.map((h) => `${h.url} ${h.status || 'no answer'} ${h.ms} ms`).join('\n    -> ')}`);
  }
  for (const c of report.certificates)
    console.log(
      `${c.faults.length ? '!' : ' '} certificate of ${c.host}: ${c.daysLeft} days left, ${c.oldestTls} to ${c.newestTls}, chain ${c.chain}${c.faults.length ? `; ${c.faults.join(', ')}` : ''}`,
    );
  for (const h of report.hsts)
    console.log(
      `${h.faults.length ? '!' : ' '} HSTS of ${h.host}: ${h.header ?? 'none'}${h.faults.map((f) => `\n    ${f}`).join('')}`,
    );
}

async function hostsOf(file: string, base: string): Promise<string[]> {
  const list = readUrlList(Buffer.from(await readInput(file)).toString('utf8'));
  const { urls } = urlsOf(list, list.column, base);
  if (urls.length === 0) throw new InputError('The file names no host.', file, 'Write one host name a line.');
  return urls;
}

function deepAddress(text: string, base: string): string {
  return text.startsWith('/') ? new URL(text, base).href : typedAddress(text, '--deep').href;
}
