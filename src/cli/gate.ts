import { Command } from 'commander';
import { VERSION } from '../core/version';
import { readLimits, type Limit } from '../core/limits/limits';
import type { Audit } from '../core/plan/audit';
import { auditInput, collect, printJson, progress, readInput, writeWhole } from './options';
import { FailedCheck } from './usage';

interface GateFlags {
  limits: string;
  against?: string;
  junit?: string;
  sarif?: string;
  markdown?: string;
  json?: boolean;
  mapHost?: string[];
  acceptAnyCertificate?: boolean;
  allowPrivate?: boolean;
}

/** `keen-lens gate`: limits of a capture or page, for build servers. */
export function gateCommand(): Command {
  return new Command('gate')
    .description(
      'Check a capture or a page against limits: exit code 1 when one is broken, or a forecast became worse.',
    )
    .argument('<file or url>', 'HAR, WARC, MHTML or saved page, or an address to record first')
    .requiredOption('--limits <file>', 'JSON file: { "limits": [{ "figure", "visitor", "most", ... }] }')
    .option('--against <file>', 'capture of the same page before: what became worse fails as well')
    .option('--junit <file>', 'write the result as JUnit XML')
    .option('--sarif <file>', 'write findings and broken limits as SARIF 2.1.0')
    .option('--markdown <file>', 'write a summary as Markdown')
    .option('--json', 'print one JSON document')
    .option('--map-host <host=ip>', 'for an address: HOST[:PORT]=IP[:PORT], may be repeated', collect)
    .option('--accept-any-certificate', 'for an address: go on when a certificate is not valid')
    .option('--allow-private', 'for an address: allow loopback and private addresses')
    .addHelpText(
      'after',
      '\nExample:\n  keen-lens gate visit.har --limits limits.json --against main.har --junit limits.xml --markdown summary.md',
    )
    .action(async (input: string, flags: GateFlags) => {
      const limits = readLimits(new TextDecoder().decode(await readInput(flags.limits)), flags.limits);
      const audits = /^https?:\/\//i.test(input) ? await recorded(input, limits, flags) : await auditsOf(input);
      const against = flags.against ? await auditsOf(flags.against) : [];
      const { judgeLimits } = await import('../core/limits/judgeLimits');
      const { gateJunit, gateMarkdown, gateSarif } = await import('../core/limits/gateFiles');
      const { gateVerdict, judgedText, worseText } = await import('../core/limits/words');
      const report = judgeLimits(audits, limits, against);
      const findings = audits.flatMap((a) => a.findings);
      if (flags.junit) await writeWhole(flags.junit, gateJunit(report, new Date().toISOString()));
      if (flags.sarif)
        await writeWhole(flags.sarif, JSON.stringify(gateSarif(report, findings, VERSION), null, 2) + '\n');
      if (flags.markdown) await writeWhole(flags.markdown, gateMarkdown(report));
      if (flags.json)
        printJson({
          ...report,
          limits: report.limits.map(({ limit, ...j }) => ({ ...limit, visitor: limit.visitor.id, ...j })),
        });
      else {
        for (const j of report.limits) console.log(`${j.broken ? 'BROKEN' : 'holds '} ${j.page}: ${judgedText(j)}`);
        for (const w of report.worse) console.log(`WORSE  ${w.page}: ${worseText(w)}`);
        for (const f of report.newFindings) console.log(`new    ${f.page}: ${f.title}`);
        console.log(gateVerdict(report));
      }
      if (!report.passed) throw new FailedCheck(gateVerdict(report));
    });
}

async function auditsOf(file: string): Promise<Audit[]> {
  return (await auditInput(file)).map((a) => a.audit);
}

/** The page as each kind of screen among the limits' visitors sees it. */
async function recorded(url: string, limits: readonly Limit[], flags: GateFlags): Promise<Audit[]> {
  const { recordPages } = await import('../engine/record/record');
  const { harFile } = await import('../engine/record/writeHar');
  const { ownPorts } = await import('../engine/store/serverLock');
  const { dataFolder } = await import('../engine/store/store');
  const { auditHar } = await import('../engine/services/importHar');
  const { deviceOf } = await import('../core/load/visitors');
  const out: Audit[] = [];
  const byDevice = new Map(limits.map((l) => [deviceOf(l.visitor), l.visitor]));
  for (const visitor of byDevice.values()) {
    const pages = await recordPages([url], {
      visitor,
      mapHosts: flags.mapHost,
      acceptAnyCertificate: flags.acceptAnyCertificate,
      allowPrivate: flags.allowPrivate,
      ownPorts: ownPorts(dataFolder()),
      runs: 3,
      onProgress: (text) => progress(`recording ${text}`),
    });
    out.push(...(await auditHar(new TextEncoder().encode(harFile(pages, VERSION)), url)).map((a) => a.audit));
  }
  return out;
}
