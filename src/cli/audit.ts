import fs from 'node:fs/promises';
import path from 'node:path';
import { Command } from 'commander';
import { effectText } from '../core/handover/effectText';
import type { Visitor } from '../core/load/visitors';
import type { Audit } from '../core/plan/audit';
import type { AuditReport } from '../engine/services/auditReport';
import { collect, printJson, progress, auditInput, visitors, writeWhole } from './options';
import { VERSION } from '../core/version';

interface AuditFlags {
  json?: boolean;
  csv?: boolean;
  sarif?: boolean;
  visitor?: string[];
  edits?: string;
  patch?: string;
}

/** A fix that delays the hero paint by more than this for some visitor is not written, ms. */
const SLOWER_MS = 50;

/** `keen-lens audit`: findings, fixes and forecasts of capture files. */
export function auditCommand(): Command {
  return new Command('audit')
    .description('Examine capture files: findings, fixes and what each fix would save.')
    .argument('<file...>', 'HAR, WARC, MHTML, saved pages, or ZIP or gzip of these')
    .option('--json', 'print one JSON document')
    .option('--csv', 'print findings as CSV')
    .option('--sarif', 'print findings as SARIF 2.1.0')
    .option('--visitor <name or spec>', 'for whom to forecast, may be repeated (default: all that fit)', collect)
    .option('--edits <dir>', 'write the files as the fixes leave them, by host and path')
    .option('--patch <file>', 'write the edits of source as a unified diff, which "git apply" takes')
    .addHelpText(
      'after',
      '\nLeft out of --edits and --patch, and named: fixes that delay the hero paint for a visitor, and the removal of rules\nthat pages not given may use.\n' +
        '\nExamples:\n  keen-lens audit visit.har --json --visitor phone-busy\n  keen-lens audit visit.har --edits ./fixed --patch fixes.patch',
    )
    .action(async (files: string[], flags: AuditFlags) => {
      const chosen = visitors(flags.visitor);
      const audits: Audit[] = [];
      for (const file of files) {
        progress(`examining ${file}`);
        audits.push(...(await auditInput(file)).map((a) => a.audit));
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
      if (flags.edits !== undefined || flags.patch !== undefined) await writeEdits(audits, chosen, flags);
    });
}

/** Writes what the fixes make of the files. Nothing that is there is replaced by half a file. */
async function writeEdits(audits: readonly Audit[], chosen: readonly Visitor[], flags: AuditFlags): Promise<void> {
  const { auditReport } = await import('../engine/services/auditReport');
  const { changedFiles } = await import('../engine/services/editedFiles');
  const without = new Map<string, string>();
  for (const { id, kind, title, forecasts } of auditReport(audits, chosen).fixes)
    if (forecasts.some((f) => f.change.lcpMs > SLOWER_MS)) without.set(id, `${title}: it delays the hero paint.`);
    else if (kind === 'style-remove-unused') without.set(id, `${title}: other pages may use these rules.`);
  const { files, leftOut } = await changedFiles(audits, (fix) => !without.has(fix.id));
  if (flags.edits !== undefined)
    for (const file of files) {
      const place = path.join(flags.edits, ...file.path.split('/'));
      await fs.mkdir(path.dirname(place), { recursive: true });
      await writeWhole(place, file.bytes);
    }
  if (flags.patch !== undefined) await writeWhole(flags.patch, files.map((f) => f.patch ?? '').join(''));
  const patched = files.filter((f) => f.patch !== undefined).length;
  progress(`${files.length} files changed, ${patched} of them by edits of source.`);
  for (const what of new Set([...without.values(), ...leftOut])) progress(`Left out: ${what}`);
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
