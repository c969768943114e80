/**
 * `npm run bench:proof`: proves variants of the truth set by replay, as the application does, and keeps what came out
 * in bench/results/proof.json, from which `npm run bench:accuracy` makes a table: replay against what was measured on the
 * original servers, and the link in user space against the one of the system. `-- --only NAME --runs N --variants N`.
 */
import fs from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { bodiesInMemory } from '../../src/core/capture/capture';
import { readHar } from '../../src/core/capture/har';
import type { Fix } from '../../src/core/fixes/fix';
import { auditPage, type Audit } from '../../src/core/plan/audit';
import { samplesOfRuns, type Visited } from '../../src/core/proof/proof';
import { readPage } from '../../src/core/source/page';
import { editedSite } from '../../src/engine/imaging/editedSite';
import { measureSizes } from '../../src/engine/imaging/measure';
import { editedAnswers, hostsOf, recordedAnswers, type Levels } from '../../src/engine/replay/answers';
import { Stage, type ProofLink } from '../../src/engine/replay/stage';
import { machine } from '../machine';
import { TRUTH_PAGES } from './pages';
import { LINKS, type TruthPage } from './site';
import { readCapture, readTruth } from './store';
import { fixFor } from './variants';

/** One variant of a page on one link, replayed: medians in ms. */
export interface Replayed {
  readonly page: string;
  readonly link: string;
  readonly way: ProofLink;
  readonly variant: string;
  readonly base: { readonly fcpMs: number; readonly lcpMs: number; readonly loadMs: number };
  readonly change: { readonly fcpMs: number; readonly lcpMs: number; readonly loadMs: number };
}

export interface ReplayResults {
  readonly measuredOn: string;
  readonly cases: readonly Replayed[];
}

const FILE = path.join(path.dirname(fileURLToPath(import.meta.url)), '../results/proof.json');

/** What was replayed last; nothing when that was never done. */
export function replayResults(): ReplayResults | undefined {
  return fs.existsSync(FILE) ? (JSON.parse(fs.readFileSync(FILE, 'utf8')) as ReplayResults) : undefined;
}

/** The kept capture of a page, with the bodies that the repository leaves out. */
async function wholeAudit(page: TruthPage): Promise<Audit> {
  const [read] = readHar(readCapture(page.name));
  if (!read) throw new Error(`${page.name} has no capture.`);
  const files = await page.files();
  const bodies = new Map(read.bodies);
  for (const load of read.capture.loads) {
    const file = files.get(load.url);
    if (!bodies.has(load.index) && file) bodies.set(load.index, file.body);
  }
  const known = bodiesInMemory(bodies);
  const source = readPage(read.capture, known);
  return auditPage(source, await measureSizes(source, known));
}

async function replay(
  page: TruthPage,
  nth: number,
  runs: number,
  most: number,
  ways: readonly ProofLink[],
): Promise<Replayed[]> {
  const truth = readTruth(page.name);
  if (!truth) return [];
  const audit = await wholeAudit(page);
  // One link a page, in turn: all of them would take hours.
  const link = LINKS[nth % LINKS.length] as (typeof LINKS)[number];
  const levels: Levels = new Map();
  const base = await recordedAnswers(audit, audit.graph, levels);
  const variants = truth.variants
    .slice(1)
    .filter((v) => v.links[link.id] && v.fixes.every((f) => f.kind !== 'font-convert'))
    .slice(0, most);
  const sides = [{ name: '', answers: base.answers }];
  for (const v of variants) {
    const fixes: Fix[] = v.fixes.map((f) => fixFor(audit, f));
    sides.push({ name: v.name, answers: (await editedAnswers(base, await editedSite(fixes, audit), levels)).answers });
  }
  const out: Replayed[] = [];
  for (const way of ways) {
    const stage = await Stage.open({
      hosts: hostsOf(
        audit,
        audit.graph,
        sides.flatMap((s) => s.answers),
      ),
      link,
      way,
      lookups: audit.graph.lookups,
    });
    try {
      const visits: Visited[][] = sides.map(() => []);
      const once = (i: number) =>
        stage.visit(sides[i]?.answers ?? [], page.url, {
          screen: audit.page.capture.conditions,
          clockMs: Date.parse(audit.page.capture.recordedAt),
        });
      await once(0);
      for (let run = 0; run < runs; run++) for (const i of sides.keys()) visits[i]?.push((await once(i)).visit);
      const samples = visits.map((v) => samplesOfRuns(v.filter((x) => x.lcpMs >= 0)));
      const of = (i: number) => ({
        fcpMs: samples[i]?.fcpMs.median ?? 0,
        lcpMs: samples[i]?.lcpMs.median ?? 0,
        loadMs: samples[i]?.loadMs.median ?? 0,
      });
      const [b] = [of(0)];
      for (const [i, side] of sides.entries()) {
        if (i === 0) continue;
        const a = of(i);
        const change = { fcpMs: a.fcpMs - b.fcpMs, lcpMs: a.lcpMs - b.lcpMs, loadMs: a.loadMs - b.loadMs };
        out.push({ page: page.name, link: link.id, way, variant: side.name, base: b, change });
      }
    } finally {
      await stage.close();
    }
  }
  return out;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const { values } = parseArgs({
    options: {
      only: { type: 'string' },
      runs: { type: 'string', default: '3' },
      variants: { type: 'string', default: '2' },
      way: { type: 'string', multiple: true },
    },
  });
  const ways = (values.way ?? ['userspace', 'namespaces']) as ProofLink[];
  for (const [nth, page] of TRUTH_PAGES.entries()) {
    if (values.only && !new RegExp(values.only).test(page.name)) continue;
    const made = await replay(page, nth, Number(values.runs), Number(values.variants), ways);
    for (const r of made)
      console.error(
        `${r.page} ${r.link} ${r.way} ${r.variant}: base ${JSON.stringify(r.base)} change ${JSON.stringify(r.change)}`,
      );
    const others = (replayResults()?.cases ?? []).filter((c) => c.page !== page.name || !ways.includes(c.way));
    fs.mkdirSync(path.dirname(FILE), { recursive: true });
    fs.writeFileSync(FILE, `${JSON.stringify({ measuredOn: machine(), cases: [...others, ...made] }, null, 1)}\n`);
  }
  process.exit(0);
}
