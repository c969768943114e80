import { applyFixes } from '../core/fixes';
import { simulate } from '../core/load/simulate';
import type { Replay } from '../core/load/replay';
import { benchFigures, benchRange, fixesOfGroups } from '../core/plan/bench';
import { explain, forecast } from '../core/plan/forecast';
import { buildStaircase, groupFixes } from '../core/plan/staircase';
import type { Answer, Ask, BenchPage, StaircaseAnswer, StoryAnswer } from './benchMessages';

/** Forecasts off the screen's thread. Newer questions of a kind make older ones void. */
let pages: readonly BenchPage[] = [];
let latestBench = 0;

const say = (answer: Answer) => postMessage(answer);

self.onmessage = (event: MessageEvent<Ask>) => {
  const ask = event.data;
  if (ask.ask === 'pages') pages = ask.pages;
  else if (ask.ask === 'bench') answerBench(ask);
  else if (ask.ask === 'staircase')
    say({ answer: 'staircase', id: ask.id, visitor: ask.visitor.id, value: staircase(ask) });
  else {
    const value = story(ask);
    if (value) say({ answer: 'story', id: ask.id, value });
  }
};

function answerBench(ask: Extract<Ask, { ask: 'bench' }>): void {
  latestBench = ask.id;
  const figures = benchFigures(pages, ask.groups, ask.visitor);
  const value = {
    ...figures,
    pages: figures.pages.map((p, i) => ({
      captureId: pages[i]?.captureId ?? 0,
      nowMs: p.now.lcpMs,
      afterMs: p.after.lcpMs,
      nowFcpMs: p.now.fcpMs,
      afterFcpMs: p.after.fcpMs,
    })),
  };
  say({ answer: 'bench', id: ask.id, visitor: ask.visitor.id, value });
  // The range takes longer: it follows once newer clicks have had their turn.
  setTimeout(() => {
    if (latestBench === ask.id)
      say({
        answer: 'bench',
        id: ask.id,
        visitor: ask.visitor.id,
        value: { ...value, range: benchRange(pages, ask.groups, ask.visitor, figures) },
      });
  }, 0);
}

function staircase(ask: Extract<Ask, { ask: 'staircase' }>): StaircaseAnswer {
  const costs = pages.flatMap((page) => {
    const now = simulate(page.graph, ask.visitor).milestones.lcpMs;
    return (['https', 'mixed', 'hero', 'weight', 'blocking'] as const).flatMap((concern) => {
      const fixes = page.fixes.filter((f) => f.findings.some((id) => page.concerns[id] === concern));
      const has = Object.values(page.concerns).includes(concern);
      if (!has) return [];
      const ms = fixes.length > 0 ? now - simulate(applyFixes(page.graph, fixes), ask.visitor).milestones.lcpMs : 0;
      return [{ captureId: page.captureId, concern, ms: Math.max(0, ms) }];
    });
  });
  const replays = pages
    .map((p) => ({ p, r: simulate(p.graph, ask.visitor) }))
    .sort((a, b) => b.r.milestones.lcpMs - a.r.milestones.lcpMs);
  const first = replays[0];
  return {
    staircase: buildStaircase(pages, ask.visitor),
    costs,
    slowest: first && {
      captureId: first.p.captureId,
      lcpMs: first.r.milestones.lcpMs,
      split: first.r.split,
      place: first.r.heroPlace,
      requests: first.r.milestones.requests,
    },
  };
}

function story(ask: Extract<Ask, { ask: 'story' }>): StoryAnswer | undefined {
  const page = pages.find((p) => p.captureId === ask.captureId);
  if (!page) return undefined;
  const fixes = fixesOfGroups(groupFixes(pages), ask.groups).filter((f) => f.page === page.graph.page);
  const afterGraph = applyFixes(page.graph, fixes);
  return {
    captureId: page.captureId,
    now: sent(simulate(page.graph, ask.visitor)),
    after: sent(simulate(afterGraph, ask.visitor)),
    afterGraph,
    why: fixes.length > 0 ? explain(page.graph, fixes, ask.visitor) : [],
    alone: Object.fromEntries(
      page.fixes.map((f) => {
        const { change, range } = forecast(page.graph, [f], ask.visitor);
        return [f.id, { lcpMs: change.lcpMs, fcpMs: change.fcpMs, range: range.lcpMs }];
      }),
    ),
  };
}

/** A replay whose lazily made parts are made: only plain values can be sent. */
function sent(r: Replay): Replay {
  return {
    milestones: r.milestones,
    split: r.split,
    fetches: r.fetches,
    scripts: r.scripts,
    path: r.path,
    fcpPath: r.fcpPath,
    loadPath: r.loadPath,
    heroPlace: r.heroPlace,
  };
}
