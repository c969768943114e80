import { Command, Option } from 'commander';
import { parseVisitor } from '../core/load/visitors';
import { effectText } from '../core/handover/effectText';
import { verdictText } from '../core/proof/words';
import { RUNS } from '../core/proof/proof';
import type { Proof } from '../engine/services/proveFixes';
import { chosenPage } from './chosenPage';
import { collect, printJson, progress, wholeNumber } from './options';

interface ProveFlags {
  page?: string;
  visitor: string;
  fix?: string[];
  runs?: number;
  link?: 'namespaces' | 'userspace';
  json?: boolean;
}

/** `keen-lens prove`: a forecast compared with a real browser on the replayed page. */
export function proveCommand(): Command {
  return new Command('prove')
    .description('Prove fixes: load the captured page in a real browser, without and with them, over a visitor’s link.')
    .argument('<file>', 'HAR file with bodies, WARC or another archive')
    .option('--page <url>', 'which page of the file (default: the first)')
    .requiredOption(
      '--visitor <name or spec>',
      'e.g. phone-busy or screen=400x860@2.5,touch,rtt=150,down=2000,up=800,cpu=4',
    )
    .option('--fix <fix>', "'KIND TARGET [key=value]...', may be repeated (default: all that are offered)", collect)
    .option(
      '--runs <n>',
      `runs of each side (default: ${RUNS.least} to ${RUNS.most}, until they say enough)`,
      wholeNumber(1),
    )
    .addOption(
      new Option('--link <how>', 'how the link is made (default: namespaces where root has them)').choices([
        'namespaces',
        'userspace',
      ]),
    )
    .option('--json', 'print one JSON document')
    .addHelpText(
      'after',
      "\nExample:\n  keen-lens prove visit.har --visitor phone-busy --fix 'hero-eager *' --fix 'script-defer *' --runs 5 --json",
    )
    .action(async (file: string, flags: ProveFlags) => {
      const visitor = parseVisitor(flags.visitor);
      const { audit, fixes } = await chosenPage(file, flags);
      const { proveFixes } = await import('../engine/services/proveFixes');
      const stop = new AbortController();
      process.once('SIGINT', () => stop.abort(new Error('It was stopped.')));
      const { proof } = await proveFixes(audit, {
        visitor,
        fixes,
        runs: flags.runs,
        link: flags.link,
        signal: stop.signal,
        onProgress: ({ text, leftMs }) =>
          progress(`${text}${leftMs === undefined ? '' : `, about ${Math.max(1, Math.round(leftMs / 1000))} s left`}`),
      });
      if (flags.json) printJson(proof);
      else printText(proof);
    });
}

function printText(p: Proof): void {
  console.log(`${p.page} for ${p.visitor}: ${p.runs} runs of each side over ${p.link}, ${p.browser}`);
  const row = (name: string, figure: 'fcpMs' | 'lcpMs' | 'loadMs') =>
    console.log(
      `${name.padEnd(18)} ${Math.round(p.before[figure].median)} -> ${Math.round(p.after[figure].median)} ms   measured ${effectText(p.change[figure].median, [p.change[figure].low, p.change[figure].high])}; promised ${effectText(p.forecast.change[figure], p.forecast.range[figure])}   ${p.held[figure] ? 'held' : 'NOT held'}`,
    );
  row('hero paint (LCP)', 'lcpMs');
  row('first paint (FCP)', 'fcpMs');
  row('load', 'loadMs');
  console.log(
    `bytes              ${Math.round(p.before.bytes.median / 1000)} -> ${Math.round(p.after.bytes.median / 1000)} kB`,
  );
  console.log(`layout shift (CLS) ${p.before.cls.median} -> ${p.after.cls.median}`);
  console.log(verdictText(p));
  for (const url of p.unanswered) console.log(`not captured, answered with 404: ${url}`);
  for (const error of p.newErrors) console.log(`new error: ${error}`);
  for (const text of p.differs) console.log(`note: ${text}`);
}
