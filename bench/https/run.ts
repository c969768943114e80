/** `npm run bench:https`: lists, probes and moves at size; prints a table and writes docs/https-bench.md. */
import { execFileSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { build } from 'esbuild';
import { issue, makeAuthority, servePlanted, type PlantedHost } from '../../demo/site/planted';
import { fatesOf } from '../../src/core/site/fates';
import { probeTargets, type Probe } from '../../src/core/site/entrances';
import { readOutsideList } from '../../src/core/site/lists/outsideList';
import { siteTest } from '../../src/core/site/scope';
import { defaultSettings } from '../../src/core/site/settings';
import { probeEntrances } from '../../src/engine/probe/probeEntrances';
import { moveFiles } from '../../src/engine/services/moveFiles';
import { readListFile } from '../../src/engine/services/readListFile';
import { projectRoot } from '../../src/engine/store/store';
import { machine } from '../machine';

const HOME = 'https://www.fernhollow.example/';
const PAGES = 100_000;

interface Figure {
  readonly what: string;
  readonly seconds: number;
  readonly wantedSeconds: number;
  readonly mb: number;
  readonly wantedMb?: number;
  readonly note: string;
}

const [name, input] = process.argv.slice(2);
if (name) console.log(JSON.stringify(await measure(name, input ?? '')));
else await main();

/** Each figure in a process of its own, as built for users, so that its memory is its own; files are made before. */
async function main(): Promise<void> {
  const script = path.join(projectRoot(), '.cache/bench/https.mjs');
  await build({
    entryPoints: [path.join(projectRoot(), 'bench/https/run.ts')],
    outfile: script,
    bundle: true,
    packages: 'external',
    format: 'esm',
    platform: 'node',
    logLevel: 'warning',
  });
  const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'kl-https-'));
  const inputs = { list: writeList(folder), probes: '', dump: writeDump(folder) };
  const figures = Object.entries(inputs).map(([name, file]) => {
    const out = execFileSync(process.execPath, [script, name, file], {
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'inherit'],
      env: { ...process.env, KEEN_LENS_ROOT: projectRoot() },
    });
    return JSON.parse(out.trim().split('\n').at(-1) ?? '') as Figure;
  });
  fs.rmSync(folder, { recursive: true });
  const rows = figures.map((f) => [
    f.what,
    `${f.seconds.toFixed(1)} s`,
    `${f.wantedSeconds} s`,
    `${f.mb} MB`,
    f.wantedMb === undefined ? '' : `${f.wantedMb} MB`,
    f.note,
  ]);
  const head = ['What', 'Took', 'Wanted', 'Memory at its highest', 'Wanted', 'Note'];
  const line = (cells: readonly string[]) => `| ${cells.join(' | ')} |`;
  const table = [line(head), line(head.map(() => '---')), ...rows.map(line)].join('\n');
  fs.writeFileSync(
    path.join(projectRoot(), 'docs/https-bench.md'),
    `# HTTPS coverage at size\n\nWritten by \`npm run bench:https\`. Memory is the resident memory of a process of its own, Node.js included.\n\n${table}\n\n${machine()}\n`,
  );
  console.table(rows);
}

async function measure(name: string, file: string): Promise<Figure> {
  if (name === 'list') return list(file);
  return name === 'probes' ? probes() : dump(file);
}

async function timed(work: () => Promise<string>): Promise<Pick<Figure, 'seconds' | 'mb' | 'note'>> {
  const start = performance.now();
  const note = await work();
  const seconds = (performance.now() - start) / 1000;
  return { seconds, mb: Math.round(process.resourceUsage().maxRSS / 1024), note };
}

/** A search export of 100,000 addresses. */
function writeList(folder: string): string {
  const file = path.join(folder, 'pages.csv');
  const scheme = (i: number) => (i % 3 === 0 ? 'http' : 'https');
  const row = (_: unknown, i: number) =>
    `${scheme(i)}://www.fernhollow.example/plants/family-${i % 300}/plant-${i}/;${i % 997};${i};3,${i % 10}`;
  fs.writeFileSync(file, `Page;Clicks;Impressions;Position\n${Array.from({ length: PAGES }, row).join('\n')}`);
  return file;
}

/** Such a list matched with a sweep that knows half of it. */
async function list(file: string): Promise<Figure> {
  const figure = await timed(async () => {
    const outside = readOutsideList(await readListFile(fs.readFileSync(file), 'pages.csv'), HOME);
    const known = (address: string): Probe | undefined => {
      const i = Number(/plant-(\d+)/.exec(address)?.[1]);
      if (i % 2 === 1) return undefined;
      const end = { url: address.replace(/^http:/, 'https:'), status: i % 10 === 0 ? 404 : 200 };
      const hop = { kind: 'http' as const, ms: 20, permanent: true };
      const hops = address.startsWith('http:') ? [{ url: address, status: 301, location: end.url, ...hop }] : [];
      return {
        from: address,
        family: 'IPv4',
        hops: [...hops, { url: end.url, status: end.status, location: null, ...hop }],
        end,
      };
    };
    const living = Array.from({ length: 20_000 }, (_, i) => ({
      url: `${HOME}plants/family-${i % 300}/plant-${i}-new/`,
    }));
    const report = fatesOf(outside.rows, { home: HOME, own: siteTest(HOME, true) }, known, living);
    return report.groups.map((g) => `${g.count} ${g.fate}`).join(', ');
  });
  return { what: '100,000 addresses read, matched and grouped', wantedSeconds: 10, wantedMb: 400, ...figure };
}

/** 1,000 ways into 250 sites on loopback. */
async function probes(): Promise<Figure> {
  const authority = await makeAuthority();
  const certificate = await issue(authority, [
    '*.example',
    ...Array.from({ length: 250 }, (_, i) => `www.site-${i}.example`),
  ]);
  const answer: PlantedHost['answer'] = (at) =>
    at.secure && at.host.startsWith('www.')
      ? { status: 200, body: `<title>${at.host}</title>` }
      : { status: 301, location: `https://www.${at.host.replace(/^www\./, '')}${at.url}` };
  const one = { answer, certificate };
  const site = await servePlanted(authority, { 'any.example': one });
  const port = (kind: ':80=' | ':443=') => site.map.find((m) => m.includes(kind))?.split('=')[1] ?? '';
  const targets = probeTargets(
    Array.from({ length: 250 }, (_, i) => ({ url: `https://www.site-${i}.example/` })),
    [],
  );
  const figure = await timed(async () => {
    const report = await probeEntrances(targets, {
      settings: {
        ...defaultSettings(HOME),
        perSecond: 0,
        parallel: 4,
        mapHosts: [`*.example:80=${port(':80=')}`, `*.example:443=${port(':443=')}`],
      },
      roots: [authority.root.cert],
      signal: new AbortController().signal,
    });
    return `${report.entrances.length} entrances and ${report.certificates.length} certificates, each with five handshakes`;
  });
  await site.close();
  return { what: '1,000 entrances probed on loopback', wantedSeconds: 30, ...figure };
}

/** A dump of 200 MB with serialised strings. */
function writeDump(folder: string): string {
  const file = path.join(folder, 'garden.sql');
  const value = 'a:2:{s:4:\\"home\\";s:32:\\"http://www.fernhollow.example/a/\\";s:4:\\"text\\";s:5:\\"ferns\\";}';
  const text = 'Leaves of the tree fern unroll in spring, \\"as they always did\\". '.repeat(12);
  const row = (i: number) => `(${i},'${i % 10 === 0 ? value : 'nothing'}','${text}')`;
  const out = fs.openSync(file, 'w');
  fs.writeSync(out, '-- MySQL dump\n');
  let size = 0;
  for (let i = 0; size < 200 * 1024 * 1024; i++) {
    const rows = Array.from({ length: 500 }, (_, k) => row(i * 500 + k)).join(',');
    size += fs.writeSync(out, `INSERT INTO \`posts\` VALUES ${rows};\n`);
  }
  fs.closeSync(out);
  return file;
}

async function dump(file: string): Promise<Figure> {
  const figure = await timed(async () => {
    const report = await moveFiles({ source: file, from: ['fernhollow.example'], to: 'https' });
    return `${report.totals.changes} addresses and ${report.totals.lengths} lengths would change`;
  });
  return { what: 'Dry run of a dump of 200 MB', wantedSeconds: 20, wantedMb: 200, ...figure };
}
