import type { Perturbation } from './browser';
import type { Link, LoadGraph } from './graph';
import { CAUSES, criticalPath, firstPaintPath, loadPath, type FetchTimes, type Replay, type Trace } from './replay';
import { PageLoad } from './simulation/pageLoad';

/**
 * Simulates a load for one visitor. Deterministic: the same graph and link give the same answer
 * everywhere.
 */
export function simulate(graph: LoadGraph, link: Link, perturb?: Perturbation): Replay {
  const load = new PageLoad(graph, link, perturb);
  load.run();
  const replay = reportOf(load);
  load.release();
  return replay;
}

/** What was recorded less what pictures no longer cause. */
function layoutShift(graph: LoadGraph): number | undefined {
  const { cls, shifted = 0 } = graph.recorded;
  return cls === undefined ? undefined : Math.max(0, cls - shifted + graph.shifts.reduce((sum, s) => sum + s.score, 0));
}

function reportOf({ shared, fetches, parser, styles, scripts, frames, moments, thread }: PageLoad): Replay {
  const { graph, p, queue } = shared;
  const doc = graph.document.fetch;
  const ttfb = Math.max(0, fetches.first[doc] as number);
  const end = Math.max(queue.time, 0);
  const fcp = frames.fcp >= 0 ? frames.fcp : end;
  const lcp = Math.max(fcp, frames.lcp >= 0 ? frames.lcp : end);
  const loadMs = moments.load >= 0 ? moments.load : end;
  const hero = p.heroFetch;
  const ready = hero >= 0 ? (fetches.delivered[hero] as number) : frames.heroElementMs;
  const found = p.early.length === 0 ? fetches.found : fetches.found.map((ms, id) => askedAt(fetches, id, ms));
  const trace: Trace = {
    found,
    sent: fetches.sent,
    first: fetches.first,
    done: fetches.done,
    causeKind: fetches.causeKind,
    causeId: fetches.causeId,
    scriptStart: scripts.start,
    scriptEnd: scripts.ended,
    gateScript: scripts.gateScript,
    gateStyle: styles.gateStyle,
    gateMs: frames.gateMs,
    dclMs: moments.dcl,
    heroReadyMs: ready,
    heroElementMs: frames.heroElementMs,
    heroStyle: parser.heroStyle,
    scriptStyle: scripts.style,
  };
  const foundHero = hero >= 0 ? Math.min(lcp, Math.max(ttfb, found[graph.hero.fetch] as number)) : ttfb;
  const doneHero = hero >= 0 ? Math.min(lcp, Math.max(foundHero, ready)) : ttfb;
  let bytes = 0;
  let requests = 0;
  for (const f of graph.fetches) {
    if (f.refused || f.kept || found[f.id] === -1) continue;
    bytes += f.headerBytes + f.bodyBytes;
    requests++;
  }
  const lazy: { fetches?: FetchTimes[] } = {};
  return {
    milestones: {
      ttfbMs: ttfb,
      fcpMs: fcp,
      lcpMs: lcp,
      dclMs: moments.dcl,
      loadMs,
      bytes,
      requests,
      longTaskMs: thread.longTaskMs,
      cls: layoutShift(graph),
    },
    split: {
      serverMs: ttfb,
      untilFoundMs: foundHero - ttfb,
      transferMs: doneHero - foundHero,
      untilPaintedMs: lcp - doneHero,
    },
    // Ranges need milestones only: node times are made when somebody asks.
    get fetches() {
      return (lazy.fetches ??= fetchTimes(graph, trace));
    },
    get scripts() {
      return Array.from(trace.scriptStart, (startMs, i) => ({ startMs, endMs: trace.scriptEnd[i] as number }));
    },
    get path() {
      return criticalPath(graph, trace, hero, lcp);
    },
    get fcpPath() {
      return firstPaintPath(graph, trace, hero, fcp);
    },
    get loadPath() {
      return loadPath(graph, trace, loadMs);
    },
    get heroPlace() {
      return placeOf(graph, trace, hero);
    },
  };
}

/** When a fetch was known of: by the page, or before that by the browser. */
const askedAt = ({ hintedAt }: PageLoad['fetches'], id: number, found: number): number =>
  (hintedAt[id] as number) !== -1 ? (hintedAt[id] as number) : found;

function fetchTimes(graph: LoadGraph, trace: Trace): FetchTimes[] {
  return graph.fetches.map((f) => ({
    foundMs: trace.found[f.id] as number,
    sentMs: trace.sent[f.id] as number,
    firstByteMs: trace.first[f.id] as number,
    endMs: trace.done[f.id] as number,
    cause: { kind: CAUSES[trace.causeKind[f.id] as number] ?? 'navigation', id: trace.causeId[f.id] as number },
  }));
}

/** Place of the hero's file in the order of discovery, from 1; 0 for text. */
function placeOf(graph: LoadGraph, { found }: Trace, hero: number): number {
  if (hero < 0) return 0;
  const at = found[graph.hero.fetch] as number;
  let place = 1;
  for (const { id } of graph.fetches) {
    if (id === graph.hero.fetch || found[id] === -1) continue;
    if ((found[id] as number) < at || (found[id] === at && id < graph.hero.fetch)) place++;
  }
  return place;
}
