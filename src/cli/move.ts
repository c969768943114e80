import { Command } from 'commander';
import type { MoveReport } from '../engine/services/moveFiles';
import { VERSION } from '../core/version';
import { collect, printJson, progress } from './options';
import { UsageError } from './usage';

interface MoveFlags {
  from: string[];
  to: string;
  dryRun?: boolean;
  output?: string;
  patch?: string;
  json?: boolean;
}

/** `keen-lens move`: http addresses of a site become https ones in a copy of its files or its database dump. */
export function moveCommand(): Command {
  return new Command('move')
    .description('Find http addresses of a site in its files or its database dump, and write a copy with https ones.')
    .argument('<source>', 'folder, zip, or SQL dump (also gzipped)')
    .requiredOption('--from <host...>', 'hosts whose addresses move, each with and without www', collectAll)
    .option('--to <target>', 'https, or an origin that all hosts get', 'https')
    .option('--dry-run', 'say what would change and write no copy')
    .option('-o, --output <path>', 'where the changed copy goes; an undo map is written beside it')
    .option('--patch <file>', 'write the changes as a unified diff')
    .option('--json', 'print the result as JSON')
    .addHelpText(
      'after',
      '\nExample:\n  keen-lens move garden.sql --from fernhollow.example --dry-run\n  keen-lens move garden.sql --from fernhollow.example -o garden-https.sql --patch garden.diff',
    )
    .action(async (source: string, flags: MoveFlags) => {
      if (!flags.dryRun && flags.output === undefined && flags.patch === undefined)
        throw new UsageError('Say --dry-run to look first, or where the copy goes with -o.');
      const { moveFiles } = await import('../engine/services/moveFiles');
      let shown = 0;
      const report = await moveFiles({
        source,
        from: flags.from,
        to: flags.to,
        out: flags.dryRun ? undefined : flags.output,
        patch: flags.patch,
        onProgress: (n, now) => {
          if (Date.now() - shown < 1000) return;
          shown = Date.now();
          progress(`file ${n}: ${now}`);
        },
      });
      if (flags.json) printJson({ version: VERSION, ...report });
      else printText(report);
    });
}

const collectAll = (value: string, before: string[] | undefined) =>
  value.split(',').reduce((all, v) => collect(v, all), before ?? []);

function printText(report: MoveReport): void {
  const n = (x: number) => x.toLocaleString('en-GB');
  const { totals } = report;
  console.log(
    `${n(totals.changes)} ${totals.changes === 1 ? 'address' : 'addresses'} in ${n(report.files.filter((f) => f.changes > 0).length)} of ${n(report.filesRead)} files ${report.dryRun ? 'would change' : 'changed'}; ${n(totals.lengths)} lengths of serialised strings with them; ${n(totals.refused)} refused.`,
  );
  for (const [form, count] of Object.entries(totals.forms))
    if (count > 0) console.log(`  ${form.padEnd(18)} ${n(count)}`);
  for (const f of report.files)
    console.log(
      `${n(f.changes).padStart(8)}  ${f.path}${f.refused ? `, ${n(f.refused)} refused` : ''}${f.brokenLengths ? `, ${n(f.brokenLengths)} serialised strings were damaged before` : ''}`,
    );
  for (const p of report.places.filter((x) => x.refused !== null).slice(0, 100))
    console.log(`refused  ${p.path}:${p.line}:${p.column}  ${p.before}: ${p.refused ?? ''}`);
  for (const x of report.notExamined) console.log(`not examined  ${x.path}: ${x.why}`);
  if (report.out) console.log(`Written: ${report.out}; undo map: ${report.undo ?? ''}`);
}
