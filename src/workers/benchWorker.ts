import { CONCERNS } from '../core/checks/finding';
import { applyFixes } from '../core/fixes';
import { simulate } from '../core/load/simulate';
import type { Replay } from '../core/load/replay';
import type { Visitor } from '../core/load/visitors';
import { benchFigures, benchRange, fixesOfGroups, groupRanges } from '../core/plan/bench';
import { explain, forecast } from '../core/plan/forecast';
import { bestOrder } from '../core/plan/search';
import { averageWith, buildStaircase, groupFixes } from '../core/plan/staircase';
import { wayTo } from '../core/plan/target';
import type {
  Answer,
  Ask,
  BenchAnswer,
  BenchPage,
  ComparedAnswer,
  ComparedSet,
  StaircaseAnswer,
  StoryAnswer,
  TargetAnswer,
} from './benchMessages';

/** Forecasts off the screen's thread. Newer questions of a kind make older ones void. */
let pages: readonly BenchPage[] = [];
let latestBench = 0;

const say = (answer: Answer) => postMessage(answer);

self.onmessage = (event: MessageEvent<Ask>) => {
  const ask = event.data;
  switch (ask.ask) {
    case 'pages':
      pages = ask.pages;
      return;
    case 'bench':
      return answerBench(ask);
    case 'staircase':
      return say({ answer: 'staircase', id: ask.id, visitor: ask.visitor.id, value: staircase(ask) });
    case 'order':
      return say({ answer: 'order', id: ask.id, value: order(ask) });
    case 'target':
      return say({ answer: 'target', id: ask.id, value: target(ask) });
    case 'compare':
      return say({ answer: 'compare', id: ask.id, value: ask.sets.map(compared) });
    case 'story': {
      const value = story(ask);
      if (value) say({ answer: 'story', id: ask.id, value });
    }
  }
};

/** The pages that a question is about. */
function asked(within: readonly number[] | undefined): readonly BenchPage[] {
  return within ? pages.filter((p) => within.includes(p.captureId)) : pages;
}

function answerBench(ask: Extract<Ask, { ask: 'bench' }>): void {
  latestBench = ask.id;
  const own = asked(ask.within);
  const figures = benchFigures(own, ask.groups, ask.visitor);
  const value = {
    ...figures,
    pages: figures.pages.map((p, i) => ({
      captureId: own[i]?.captureId ?? 0,
      nowMs: p.now.lcpMs,
      afterMs: p.after.lcpMs,
      nowFcpMs: p.now.fcpMs,
      afterFcpMs: p.after.fcpMs,
    })),
  };
  const answer = (extra: Pick<BenchAnswer, 'range' | 'groupRanges'>) =>
    say({ answer: 'bench', id: ask.id, visitor: ask.visitor.id, value: { ...value, ...extra } });
  answer({});
  // Ranges take longer: they follow once newer clicks have had their turn.
  setTimeout(() => {
    if (latestBench !== ask.id) return;
    const range = benchRange(own, ask.groups, ask.visitor, figures);
    answer({ range });
    setTimeout(() => {
      if (latestBench === ask.id) answer({ range, groupRanges: groupRanges(own, figures, ask.visitor) });
    }, 0);
  }, 0);
}

/** Averages of pages with groups of fixes: what plans are searched by. */
function averages(own: readonly BenchPage[], visitor: Visitor) {
  const groups = groupFixes(own);
  return { groups, after: (ids: readonly string[]) => averageWith(own, fixesOfGroups(groups, ids), visitor) };
}

function order(ask: Extract<Ask, { ask: 'order' }>): string[] {
  const { groups, after } = averages(asked(ask.within), ask.visitor);
  const own = groups.filter((g) => ask.groups.includes(g.id));
  const steps = bestOrder(own, (ids) => after(ids).lcpMs).steps.map((s) => s.id);
  // What concerns none of these pages keeps its place at the end.
  return [...steps, ...ask.groups.filter((id) => !steps.includes(id))];
}

function target(ask: Extract<Ask, { ask: 'target' }>): TargetAnswer {
  const { groups, after } = averages(asked(ask.within), ask.visitor);
  const { ids, value, reached, effort } = wayTo(groups, (set) => after(set)[ask.figure], ask.targetMs);
  return { ids, nowMs: after([])[ask.figure], valueMs: value, reached, effort };
}

function compared(set: ComparedSet): ComparedAnswer {
  const own = asked(set.within);
  const figures = benchFigures(own, set.groups, set.visitor);
  const { lcpMs, fcpMs } = benchRange(own, set.groups, set.visitor, figures);
  const effort = groupFixes(own)
    .filter((g) => set.groups.includes(g.id))
    .reduce((sum, g) => sum + g.effort, 0);
  return { now: figures.now, after: figures.after, range: { lcpMs, fcpMs }, effort, pages: own.length };
}

function staircase(ask: Extract<Ask, { ask: 'staircase' }>): StaircaseAnswer {
  const costs = pages.flatMap((page) => {
    const now = simulate(page.graph, ask.visitor).milestones.lcpMs;
    return CONCERNS.flatMap(({ id: concern }) => {
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
