/**
 * `npm run bench:accuracy`: holds forecasts against what was measured, and writes docs/accuracy.md. With `-- --measure
 * [--only NAME] [--runs 5]` it first measures what is missing (root, Linux, iproute2, a C compiler, Chromium), with `--again` also
 * what is not, and keeps the measuring whose runs lie closer together; with `-- --record` it records the captures anew;
 * with `-- --fit` it fits the constants on two thirds of the pages and prints them.
 */
import fs from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { machine } from '../machine';
import { anchorsSection } from './anchors';
import { compare, judgedPages } from './compare';
import { accuracyDocument } from './document';
import { fit, FITTED } from './fit';
import { planGaps } from './planGap';
import { TRUTH_PAGES } from './pages';
import { accuracyPlot } from './plot';
import { replayResults } from './replay';
import { reportOf } from './report';
import { sensitivities } from './sensitivity';

const root = path.join(path.dirname(fileURLToPath(import.meta.url)), '../..');
const { values } = parseArgs({
  options: {
    measure: { type: 'boolean' },
    again: { type: 'boolean' },
    record: { type: 'boolean' },
    only: { type: 'string' },
    runs: { type: 'string', default: '5' },
    fit: { type: 'boolean' },
  },
});
if (values.measure || values.record) {
  const { measure, measureAgain, recordAll } = await import('./measure');
  const only = values.only ? new RegExp(values.only) : undefined;
  if (values.record) await recordAll(only);
  if (values.measure) await (values.again ? measureAgain : measure)(only, Math.max(3, Number(values.runs) || 5));
}
const pages = judgedPages();
const fitted = pages.filter((p) => !p.held && !p.late);
if (values.fit) {
  fit(fitted, 4, (text) => console.error(text));
  for (const c of FITTED) console.log(`${c.name}: ${Number(c.get().toPrecision(3))}`);
} else {
  const started = process.cpuUsage();
  const cases = compare(pages, true);
  const report = reportOf(pages, cases);
  const text = accuracyDocument({
    report,
    cases,
    plain: compare(judgedPages(true)),
    sensitivities: sensitivities(fitted),
    plans: planGaps(pages.filter((p) => !p.late)),
    fitted: fitted.length,
    unmeasured: TRUTH_PAGES.filter((p) => !pages.some((j) => j.truth.page === p.name)).map((p) => p.name),
    machine: machine(),
    anchors: anchorsSection(pages),
    replay: replayResults(),
  });
  fs.writeFileSync(path.join(root, 'docs/accuracy.md'), text);
  fs.writeFileSync(path.join(root, 'docs/accuracy.svg'), accuracyPlot(report.points));
  fs.writeFileSync(path.join(root, 'src/islands/trust/accuracy.json'), JSON.stringify(report) + '\n');
  for (const r of report.rows)
    console.log(`${r.ok ? 'met   ' : 'MISSED'} ${r.name}: ${r.fitted} | held back ${r.held} (${r.target})`);
  console.log(
    `${cases.length} cases, ${Math.round(process.cpuUsage(started).user / 1000)} ms of processor time; docs/accuracy.md is written.`,
  );
}
process.exit(0);
