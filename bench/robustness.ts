import fs from 'node:fs';
import path from 'node:path';
import { projectRoot } from '../src/engine/store/store';
import { machine } from './machine';

/** What one bench found, as kept in bench/results. */
export interface RobustnessResult {
  readonly measured: string;
  readonly rows: readonly (readonly (string | number)[])[];
}

const resultFile = (name: string) => path.join(projectRoot(), `bench/results/${name}.json`);

/** Keeps the rows of a bench and writes docs/robustness.md anew from all that is kept. */
export function keepResult(name: 'archive' | 'crash' | 'fuzz' | 'slow', rows: RobustnessResult['rows']): void {
  const result: RobustnessResult = { measured: machine(), rows };
  fs.writeFileSync(resultFile(name), JSON.stringify(result, null, 2) + '\n');
  fs.writeFileSync(path.join(projectRoot(), 'docs/robustness.md'), document());
}

function document(): string {
  const read = (name: string): RobustnessResult | undefined =>
    fs.existsSync(resultFile(name))
      ? (JSON.parse(fs.readFileSync(resultFile(name), 'utf8')) as RobustnessResult)
      : undefined;
  const part = (title: string, how: string, name: string, head: readonly string[]): string => {
    const result = read(name);
    if (!result) return `## ${title}\n\n${how}\n\nNot run yet.\n`;
    const line = (cells: readonly (string | number)[]) => `| ${cells.join(' | ')} |`;
    const table = [line(head), line(head.map(() => '---')), ...result.rows.map(line)].join('\n');
    return `## ${title}\n\n${how}\n\n${table}\n\n${result.measured}\n`;
  };
  return `# What was done to Keen Lens, and what happened

Written by \`npm run bench:crash\`, \`npm run bench:fuzz\` and \`npm run bench:archive\`. What needs no long loop is a test: secrets, private addresses and
hanging pages in \`test/engine/recordBorders.test.ts\` and \`test/core/capture/redact.test.ts\`, full and damaged disks in
\`test/engine/store.test.ts\`, strange requests in \`test/api/strange.test.ts\`, hostile servers in \`test/engine/crawl/\`.

${part(
  'Killed in the middle',
  'Each kind of work is killed (SIGKILL) at moments spread over the time that it takes, goes on as after a restart, and is compared with undisturbed work: rows, contents, states of jobs, the integrity of the database, browsers and files left behind.',
  'crash',
  ['Work', 'Kills', 'In the middle', 'Lost, doubled or left'],
)}
${part(
  'Inputs that are almost right',
  'Captures of all kinds, pages, styles, robots.txt, sitemaps, lists and settings, changed piece by piece. Each input may take 5 s and a thread 512 MB. A fault is anything but a result or a refusal that says what, where and what next. The run of 29 November went on beside other work at the lowest priority: its html input that had not ended takes 1 s by itself, and its console fault was one of the bench, which changed a list into none; both are mended there.',
  'fuzz',
  ['Format', 'Inputs', 'Refused in words', 'Longest, ms', 'Faults'],
)}
${part(
  'Costly inputs',
  'Read, examined, with fixes and graph, in one thread. A document is read as far as its first 300,000 elements, a text as far as 12 million characters, and the capture says so.',
  'slow',
  ['Input', 'MB', 'Seconds', 'Seconds a MB'],
)}
${part(
  'Large web archives',
  'A WARC file that a crawl of a site left, read as a stream and examined by a process of its own (`npm run bench:archive`): the first 200 of its pages with what they fetch.',
  'archive',
  ['MB', 'Answers', 'Pages examined', 'Seconds', 'Memory, MB'],
)}`;
}
