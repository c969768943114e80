import { effectText } from '../core/handover/effectText';
import { Command } from 'commander';
import type { Audit } from '../core/plan/audit';
import type { AuditReport } from '../engine/services/auditReport';
import { collect, printJson, progress, readInput, visitors } from './options';
import { VERSION } from '../core/version';

interface AuditFlags {
  json?: boolean;
  csv?: boolean;
  sarif?: boolean;
  visitor?: string[];
}

/** `keen-lens audit`: findings, fixes and forecasts of capture files. */
export function auditCommand(): Command {
  return new Command('audit')
    .description('Examine capture files: findings, fixes and what each fix would save.')
    .argument('<file...>', 'HAR, WARC, MHTML, saved pages, or ZIP or gzip of these')
    .option('--json', 'print one JSON document')
    .option('--csv', 'print findings as CSV')
    .option('--sarif', 'print findings as SARIF 2.1.0')
    .option('--visitor <name or spec>', 'for whom to forecast, may be repeated (default: all that fit)', collect)
    .addHelpText('after', '\nExample:\n  keen-lens audit visit.har --json --visitor phone-busy')
    .action(async (files: string[], flags: AuditFlags) => {
      const chosen = visitors(flags.visitor);
      const { auditHar } = await import('../engine/services/importHar');
      const audits: Audit[] = [];
      for (const file of files) {
        progress(`examining ${file}`);
        audits.push(...(await auditHar(await readInput(file), file)).map((a) => a.audit));
      }
      const findings = audits.flatMap((a) => a.findings);
      if (flags.csv) process.stdout.write((await import('../core/handover/findingsTable')).findingsCsv(findings));
      else if (flags.sarif) printJson((await import('../core/handover/sarif')).findingsSarif(findings, VERSION));
      else {
        const { auditReport } = await import('../engine/services/auditReport');
        const report = auditReport(audits, chosen);
        if (flags.json) printJson(report);
        else printText(report);
      }
    });
}

function printText(report: AuditReport): void {
  for (const f of report.findings) {
    const at = f.evidence.source
      ? ` ${f.evidence.source.url}:${f.evidence.source.line}:${f.evidence.source.column}`
      : '';
    console.log(`${f.harm.padEnd(8)} ${f.title}${at}\n         ${f.plain}`);
  }
  console.log('\nFixes, best first:');
  const best = (fix: AuditReport['fixes'][number]) => Math.min(...fix.forecasts.map((c) => c.change.lcpMs));
  for (const fix of [...report.fixes].sort((a, b) => best(a) - best(b))) {
    const c = fix.forecasts[0];
    if (c)
      console.log(
        `  hero paint (LCP): ${effectText(c.change.lcpMs, c.range.lcpMs)}; first paint (FCP): ${effectText(c.change.fcpMs)}  ${fix.title} [${fix.kind}] on ${c.page}`,
      );
  }
  for (const n of report.notExamined) console.log(`\nNot examined: ${n.what}\n  ${n.why}`);
}
