/** `npm run bench:truth`: what we say of the situations in test/fixtures/pages, against what Chromium did with them. */
import fs from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { SITUATIONS } from '../../test/fixtures/pages/serve';
import { listSituations, readRecordings } from '../../test/fixtures/pages/situations';
import { machine } from '../machine';
import { agrees, judge, type Verdict } from './judge';
import { recordSituations } from './record';

const { values } = parseArgs({ options: { record: { type: 'boolean' }, folder: { type: 'string' } } });
const folder = values.folder ? path.resolve(values.folder) : SITUATIONS;
if (values.record) await recordSituations(folder);

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
  const docs = path.join(path.dirname(fileURLToPath(import.meta.url)), '../../docs/truth.md');
  const list = wrong.map(
    (v) =>
      `- ${v.what}, \`${v.page}\` (${v.device}), ${v.about.replace(/^https:\/\/www\.fernhollow\.example/, '')}: we say ${v.ours}, Chromium ${v.truth}`,
  );
  fs.writeFileSync(
    docs,
    `# Truth of detection\n\nMade by \`npm run bench:truth\` from the recordings in test/fixtures/pages/recorded (${machine()}); with \`-- --record\` they\nare made anew. ${situations.length} small pages, each one situation, recorded by Chromium as phone and as desktop.\n\n${text}\n\n${list.length > 0 ? `What differs:\n\n${list.join('\n')}\n` : 'Nothing differs.\n'}`,
  );
}
process.exit(0);
