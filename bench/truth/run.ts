/** `npm run bench:truth`: what we say of the situations in test/fixtures/pages, against what Chromium did with them. */
import fs from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { SITUATIONS } from '../../test/fixtures/pages/serve';
import { listSituations, readRecordings } from '../../test/fixtures/pages/situations';
import { machine } from '../machine';
import { agrees, judge, type Verdict } from './judge';
import { measureSources, measureThousand } from './hostile';
import { recordSituations } from './record';

const { values } = parseArgs({
  options: { record: { type: 'boolean' }, only: { type: 'string' }, folder: { type: 'string' } },
});
const folder = values.folder ? path.resolve(values.folder) : SITUATIONS;
if (values.record) await recordSituations(folder, values.only ? new RegExp(values.only) : undefined);

const situations = listSituations(folder);
const verdicts = (['phone', 'desktop'] as const).flatMap((device) =>
  readRecordings(device, folder).flatMap((r) =>
    judge(
      r,
      situations.find((s) => s.name === r.name)!,
    ),
  ),
);
const ROWS: readonly [Verdict['what'], string, string][] = [
  [
    'blocking',
    'Holds back the first paint (from the source alone)',
    'Resource Timing `renderBlockingStatus`, each load',
  ],
  ['mixed', 'Mixed content: blocked, upgraded or allowed', 'what the network record shows, each http address'],
  ['hero', 'Hero, from a plain HAR with its source', 'last Largest Contentful Paint entry, each page'],
  ['hero seen', 'Hero, with observations', 'the same'],
  ['queue', 'Place of the hero in the queue', 'order of requests as recorded'],
  ['faults', 'Checks that found something', 'checks that must, as each page says'],
];
const table = ROWS.map(([what, name, truth]) => {
  const own = verdicts.filter((v) => v.what === what);
  const right = own.filter(agrees).length;
  return `| ${name} | ${truth} | ${own.length} | ${right} | ${((100 * right) / Math.max(1, own.length)).toFixed(1)} % |`;
});
const wrong = verdicts.filter((v) => !agrees(v));
const text = ['| What we say | Against | Compared | Alike | Share |', '|---|---|---|---|---|', ...table].join('\n');
console.log(`${situations.length} situations, each as phone and desktop\n\n${text}\n`);
for (const v of wrong)
  console.log(`${v.what}: ${v.page} (${v.device}) ${v.about}: we say ${v.ours}, Chromium ${v.truth}`);

if (!values.folder) {
  const sources = measureSources().map(
    (s) =>
      `| ${s.name} | ${s.mb.toFixed(1)} MB | ${(s.ms / 1000).toFixed(2)} s | ${(s.ms / 1000 / Math.max(1, s.mb)).toFixed(2)} s | ${s.findings} |`,
  );
  const { examineMs, readMs } = measureThousand();
  const thousand = `A thousand captures (the demo’s, over and over) are examined in ${(examineMs / 1000).toFixed(1)} s of one core; reading their files takes ${(readMs / 1000).toFixed(1)} s more. 60 s on two cores are allowed.`;
  const hostile = [
    '| Source | Size | Processor time | for each MB (at least one) | Findings |',
    '|---|---|---|---|---|',
    ...sources,
  ].join('\n');
  console.log(`\n${hostile}\n\n${thousand}`);
  const docs = path.join(path.dirname(fileURLToPath(import.meta.url)), '../../docs/truth.md');
  const list = wrong.map(
    (v) =>
      `- ${v.what}, \`${v.page}\` (${v.device}), ${v.about.replace(/^https:\/\/www\.fernhollow\.example/, '')}: we say ${v.ours}, Chromium ${v.truth}`,
  );
  fs.writeFileSync(
    docs,
    `# Truth of detection\n\nMade by \`npm run bench:truth\` from the recordings in test/fixtures/pages/recorded (${machine()}); with \`-- --record\` they\nare made anew. ${situations.length} small pages, each one situation, recorded by Chromium as phone and as desktop.\n\n${text}\n\n${list.length > 0 ? `What differs:\n\n${list.join('\n')}\n` : 'Nothing differs.\n'}\n## Large and hostile sources\n\nRead and examined whole, in processor time of one core; two seconds for each MB are allowed.\n\n${hostile}\n\n${thousand}\nMeasuring sizes by compressing and re-encoding is not in it: that is done once, when a capture comes in.\n`,
  );
}
process.exit(0);
