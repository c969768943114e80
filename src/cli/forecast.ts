import { effectText, trustText } from '../core/handover/effectText';
import fs from 'node:fs/promises';
import { Command } from 'commander';
import { applyFixes } from '../core/fixes/applyFixes';
import { FIX_KINDS } from '../core/fixes';
import { retimedHar } from '../core/handover/retimedHar';
import { simulate } from '../core/load/simulate';
import { parseVisitor } from '../core/load/visitors';
import { answerForecast, type ForecastAnswer } from '../engine/services/forecastCapture';
import { chosenPage } from './chosenPage';
import { collect, printJson, progress } from './options';
import { VERSION } from '../core/version';

interface ForecastFlags {
  page?: string;
  visitor: string;
  fix?: string[];
  each?: boolean;
  again?: boolean;
  har?: string;
  json?: boolean;
}

/** `keen-lens forecast`: what fixes together would change for one visitor. */
export function forecastCommand(): Command {
  return new Command('forecast')
    .description('Forecast what fixes, applied together, would change for one visitor.')
    .argument('<file>', 'HAR, WARC, MHTML or saved page')
    .option('--page <url>', 'which page of the file (default: the first)')
    .requiredOption(
      '--visitor <name or spec>',
      'e.g. phone-busy or screen=400x860@2.5,touch,rtt=150,down=2000,up=800,cpu=4',
    )
    .option('--fix <fix>', "'KIND TARGET [key=value]...', may be repeated (default: all that are offered)", collect)
    .option('--each', 'also each fix alone')
    .option('--again', 'for a visit a day later, with what the first one may keep')
    .option('--har <file>', 'write a HAR with the times that the fixes would give')
    .option('--json', 'print one JSON document')
    .addHelpText(
      'after',
      `\nKinds: ${FIX_KINDS.map((k) => k.id).join(', ')}\n\nExample:\n  keen-lens forecast visit.har --visitor phone-busy --fix 'hero-eager *' --fix 'text-compress *' --each --json`,
    )
    .action(async (file: string, flags: ForecastFlags) => {
      const visitor = parseVisitor(flags.visitor);
      const { audit, fixes } = await chosenPage(file, flags);
      const answer = answerForecast(audit.graph, fixes, visitor, flags.each ?? false, flags.again ? 'again' : 'first');
      if (flags.har) {
        const fixed = applyFixes(audit.graph, fixes);
        const har = retimedHar(audit.page.capture, fixed, simulate(fixed, visitor), VERSION);
        await fs.writeFile(flags.har, JSON.stringify(har));
        progress(`written: ${flags.har}`);
      }
      if (flags.json) printJson(answer);
      else printText(answer);
    });
}

function printText(a: ForecastAnswer): void {
  const row = (name: string, before: number, after: number, range?: readonly [number, number]) =>
    console.log(
      `${name.padEnd(18)} ${Math.round(before)} -> ${Math.round(after)} ms${range ? `   ${effectText(after - before, range)}` : ''}`,
    );
  console.log(`${a.page} for ${a.visitor}, ${a.fixes.length} fixes`);
  row('hero paint (LCP)', a.before.lcpMs, a.after.lcpMs, a.range.lcpMs);
  row('first paint (FCP)', a.before.fcpMs, a.after.fcpMs, a.range.fcpMs);
  row('load', a.before.loadMs, a.after.loadMs, a.range.loadMs);
  console.log(`bytes              ${Math.round(a.before.bytes / 1000)} -> ${Math.round(a.after.bytes / 1000)} kB`);
  for (const w of a.why) console.log(w);
  for (const e of a.each ?? [])
    console.log(
      `  alone: hero paint (LCP) ${effectText(e.change.lcpMs)}, first paint (FCP) ${effectText(e.change.fcpMs)}  ${e.fix.kind} ${e.fix.target}`,
    );
  console.log(`Trust: ${trustText(a.trust)}`);
}
