import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import fs from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromiumVersion } from '../../src/engine/record/chromium';
import { stealMeter } from '../../src/engine/replay/steal';
import { machine } from '../machine';
import { withRig, type Rig } from './link';
import { TRUTH_PAGES } from './pages';
import { addressOf, LINKS, RECORDING_LINK, type Files, type TruthLink, type TruthPage } from './site';
import {
  agrees,
  CACHE,
  readTruth,
  sampleOf,
  saveCapture,
  saveTruth,
  spreadOf,
  wholeCapture,
  type PageTruth,
  type VariantTruth,
} from './store';
import { auditCapture, makeVariant } from './variants';
import { browserFor, visit, type NearBrowser, type Visit } from './visit';

const root = path.join(path.dirname(fileURLToPath(import.meta.url)), '../..');
const LEAST_RUNS = 3;
/** A run during which the host took more than this share of processor time is made again when it is calm, at most so often. */
export const MOST_STEAL = 0.04;
const MOST_REPEATS = 6;
const LONGEST_WAIT_MS = 600_000;

/**
 * Measures what is missing of the truth set, page by page: resumable, one browser at a time. While a file
 * `.cache/accuracy/pause` exists it waits between visits, so that other work does not spoil the figures.
 */
export function measure(only: RegExp | undefined, mostRuns: number): Promise<void> {
  return onRig(only, async (rig, page) => void (await measurePage(rig, page, readTruth(page.name), mostRuns)));
}

/**
 * Measures pages once more, and keeps of the two measurings of each the one whose single runs lie closer together: the
 * host of a borrowed machine is calm at one time and not at another.
 */
export function measureAgain(only: RegExp | undefined, mostRuns: number): Promise<void> {
  return onRig(only, async (rig, page) => {
    const before = readTruth(page.name);
    const after = await measurePage(rig, page, undefined, mostRuns);
    if (!before || before.fingerprint !== after.fingerprint || !isWhole(before)) return;
    const closer = spreadOf(before) <= spreadOf(after) ? before : after;
    console.error(
      `${page.name}: runs lie ${percent(before)} apart before, ${percent(after)} now: the ${closer === before ? 'first' : 'second'} measuring is kept`,
    );
    saveTruth(closer);
  });
}

const percent = (truth: PageTruth) => `${(100 * spreadOf(truth)).toFixed(1)} %`;
const isWhole = (truth: PageTruth) => truth.variants.every((v) => LINKS.every((l) => v.links[l.id]));

/** Records the captures of the truth set anew; what was measured stays. */
export function recordAll(only?: RegExp): Promise<void> {
  return onRig(only, async (rig, page) => {
    await calm();
    await record(rig, page, await page.files());
    console.error(`${page.name}: recorded`);
  });
}

function onRig(only: RegExp | undefined, each: (rig: Rig, page: TruthPage) => Promise<void>): Promise<void> {
  return withRig(async (rig) => {
    for (const page of TRUTH_PAGES) if (!only || only.test(page.name)) await each(rig, page);
  });
}

/** Measures what is missing of what is known of a page; of all, where that is of another state of the page. */
async function measurePage(
  rig: Rig,
  page: TruthPage,
  known: PageTruth | undefined,
  mostRuns: number,
): Promise<PageTruth> {
  const files = await page.files();
  const fingerprint = fingerprintOf(page, files);
  let truth = known?.fingerprint === fingerprint ? known : undefined;
  if (truth && isWhole(truth)) return truth;
  if (!truth || !fs.existsSync(wholeCapture(page.name))) await record(rig, page, files);
  const audit = await auditCapture(fs.readFileSync(wholeCapture(page.name)));
  const made = await Promise.all(
    page.variants.map(async (v) => ({ ...v, ...(await makeVariant(files, audit, v.fixes)) })),
  );
  const all = [{ name: 'as it is', files, fixes: [] }, ...made];
  truth ??= {
    page: page.name,
    fingerprint,
    measuredOn: '',
    browser: '',
    variants: all.map((v): VariantTruth => ({ name: v.name, fixes: v.fixes, links: {} })),
  };
  for (const link of LINKS) {
    if (truth.variants.every((v) => v.links[link.id])) continue;
    await rig.link(link.rttMs, link.downKbps, link.upKbps);
    await rig.hosts(page.hosts);
    const runs = await measureLink(
      rig,
      browserFor(page.hosts, rig.keyHash),
      page,
      link,
      all.map((v) => v.files),
      mostRuns,
    );
    truth = {
      ...truth,
      measuredOn: machine(),
      browser: `Chromium ${await chromiumVersion()}`,
      variants: truth.variants.map((v, i) => ({
        ...v,
        links: { ...v.links, [link.id]: sampleOf(runs[i] ?? []) },
      })),
    };
    saveTruth(truth);
    keepTimelines(page, link, truth, runs);
  }
  return truth;
}

/** Base and variants in turn, so that drift cancels. */
async function measureLink(
  rig: Rig,
  browser: NearBrowser,
  page: TruthPage,
  link: TruthLink,
  variants: readonly Files[],
  mostRuns: number,
): Promise<Visit[][][]> {
  const runs: Visit[][][] = variants.map(() => []);
  const once = async (files: Files) => {
    await paused();
    await rig.files(files);
    const visits = await visit(browser, page.url, {
      cpuFactor: link.cpuFactor,
      screen: page.screen ?? 'phone',
      again: page.repeat,
      hangUp: () => rig.hangUp(),
    });
    await rig.hangUp();
    return visits;
  };
  // The first visit on a link is slower than the rest.
  await once(variants[0] as Files);
  for (let round = 0; round < mostRuns; round++) {
    let done = 0;
    for (const [i, files] of variants.entries()) {
      const own = runs[i] as Visit[][];
      if (own.length >= LEAST_RUNS && agrees(own)) {
        done++;
        continue;
      }
      let visits = await once(files);
      for (let n = 0; n < MOST_REPEATS && visits.some((v) => v.steal > MOST_STEAL || v.lcpMs < 0); n++)
        (await calm(), (visits = await once(files)));
      own.push(visits);
    }
    if (done === variants.length) break;
  }
  console.error(
    `${new Date().toISOString().slice(11, 19)} ${page.name} ${link.id}: ${runs.map((r) => `${Math.round(sampleOf(r).fcpMs)}/${Math.round(sampleOf(r).lcpMs)} (${r.length})`).join(' ')}`,
  );
  return runs;
}

/** Waits until the host leaves this machine its processors. */
export async function calm(): Promise<void> {
  const until = Date.now() + LONGEST_WAIT_MS;
  let said = false;
  while (Date.now() < until) {
    const stealSince = stealMeter();
    await new Promise((done) => setTimeout(done, 2000));
    if (stealSince() <= MOST_STEAL) return;
    if (!said) console.error('The host takes processor time away: waiting until it is calm.');
    said = true;
  }
}

/** Waits while somebody asks for quiet work by a file. */
export async function paused(): Promise<void> {
  const flag = path.join(CACHE, 'pause');
  const idle = path.join(CACHE, 'idle');
  if (!fs.existsSync(flag)) return;
  fs.writeFileSync(idle, '');
  while (fs.existsSync(flag)) await new Promise((done) => setTimeout(done, 200));
  fs.rmSync(idle, { force: true });
}

/** The capture that the repository keeps, and the whole one beside it. */
export async function record(rig: Rig, page: TruthPage, files: Files): Promise<void> {
  const out = wholeCapture(page.name);
  await recordTo(out, rig, page, files);
  saveCapture(page.name, fs.readFileSync(out, 'utf8'));
}

/** The capture, by our own recorder as the command line has it, on a fast link; again while the host takes processor time away. */
export async function recordTo(out: string, rig: Rig, page: TruthPage, files: Files): Promise<void> {
  await rig.link(RECORDING_LINK.rttMs, RECORDING_LINK.downKbps, RECORDING_LINK.upKbps);
  await rig.hosts(page.hosts);
  await rig.files(files);
  const stealSince = stealMeter();
  fs.mkdirSync(path.dirname(out), { recursive: true });
  const visitor =
    page.screen === 'desktop'
      ? 'screen=1366x768@1,rtt=25,down=40000,up=10000,cpu=1'
      : 'screen=400x860@2.5,touch,rtt=150,down=2000,up=800,cpu=4';
  const take = () =>
    spawnSync(
      'ip',
      [
        ...[
          'netns',
          'exec',
          'kl-near',
          process.execPath,
          path.join(root, 'bin/keen-lens.mjs'),
          'record',
          page.url,
          '-o',
          out,
        ],
        ...['--visitor', visitor, '--runs', '3', '--accept-any-certificate', '--allow-private'],
        ...page.hosts.flatMap((h, i) => ['--map-host', `${h.name}=${addressOf(i)}`]),
      ],
      { stdio: ['ignore', 'ignore', 'pipe'], encoding: 'utf8' },
    );
  let done = take();
  for (let n = 0; n < MOST_REPEATS && done.status === 0 && stealSince() > MOST_STEAL; n++) {
    await calm();
    stealSince();
    done = take();
  }
  if (done.status !== 0) throw new Error(`${page.name} could not be recorded: ${done.stderr}`);
}

function fingerprintOf(page: TruthPage, files: Files): string {
  const hash = createHash('sha256');
  hash.update(JSON.stringify([page.url, page.hosts, page.screen, page.repeat, page.variants]));
  for (const [url, f] of files)
    hash
      .update(
        `${url}|${f.gzip}|${f.status}|${f.waitMs}|${f.pauses ? JSON.stringify(f.pauses) : ''}${f.hints ? JSON.stringify(f.hints) : ''}${JSON.stringify(f.headers)}`,
      )
      .update(f.body);
  return hash.digest('hex').slice(0, 16);
}

/** Requests of a first run each, for finding out why a forecast is wrong; not kept in the repository. */
function keepTimelines(page: TruthPage, link: TruthLink, truth: PageTruth, runs: readonly Visit[][][]): void {
  const folder = path.join(CACHE, 'timelines');
  fs.mkdirSync(folder, { recursive: true });
  const kept = truth.variants.map((v, i) => ({ variant: v.name, runs: runs[i] }));
  fs.writeFileSync(path.join(folder, `${page.name}-${link.id}.json`), JSON.stringify(kept));
}
