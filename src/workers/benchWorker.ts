import { applyFixes } from '../core/fixes/applyFixes';
import { simulate } from '../core/load/simulate';
import type { Visitor } from '../core/load/visitors';
import {
  benchFigures,
  benchRange,
  benchRangeSteps,
  fixesOfGroups,
  groupRangesSteps,
  type BenchFigures,
} from '../core/plan/bench';
import { samplesSteps } from '../core/plan/samples';
import type { Steps } from '../core/plan/steps';
import { explain, forecast } from '../core/plan/forecast';
import { bestOrder } from '../core/plan/search';
import { averagesOf } from '../core/plan/groupAverages';
import { groupFixes, type PlanPage } from '../core/plan/staircase';
import { pageStory, plainReplay } from '../core/plan/story';
import { wayTo } from '../core/plan/target';
import type {
  Answer,
  Ask,
  BenchAnswer,
  BenchPage,
  ComparedAnswer,
  ComparedSet,
  StoryAnswer,
  TargetAnswer,
} from './benchMessages';

/** Forecasts off the screen's thread. Newer questions of a kind make older ones void. */
let pages: readonly BenchPage[] = [];
let latestBench = 0;

const say = (answer: Answer) => postMessage(answer);

/** Where the pages are read, and whether that has begun. */
let source: { readonly path: string; reading?: Promise<void>; hasRead?: true } | undefined;

self.onmessage = (event: MessageEvent<Ask>) => {
  const ask = event.data;
  if (ask.ask === 'pages') source = { path: ask.path };
  else if (ask.ask === 'story') void answerStory(ask);
  else {
    if (ask.ask === 'bench') latestBench = ask.id;
    void read().then((ready) => ready && answer(ask));
  }
};

/** Reads the pages, once; others that are named meanwhile are read too. False when they cannot be had. */
async function read(): Promise<boolean> {
  for (;;) {
    const own = source;
    if (!own) return false;
    own.reading ??= readPages(own.path).then((read) => {
      if (source !== own) return;
      pages = read;
      own.hasRead = true;
    });
    try {
      await own.reading;
      if (source === own) return true;
    } catch (error) {
      own.reading = undefined;
      if (source !== own) continue;
      sayFailed(error);
      return false;
    }
  }
}

const sayFailed = (error: unknown) =>
  say({ answer: 'failed', what: error instanceof Error ? error.message : String(error) });

/** One page: of all, once they have been read, else read by itself. */
async function readOne(captureId: number): Promise<BenchPage | undefined> {
  for (;;) {
    const own = source;
    if (!own) return undefined;
    if (own.hasRead) return pages.find((p) => p.captureId === captureId);
    try {
      const [page] = await readPages(`${own.path}&capture=${captureId}`);
      if (source === own) return page;
    } catch (error) {
      if (source !== own) continue;
      sayFailed(error);
      return undefined;
    }
  }
}

/** The recorded pages as /api/sweeps/ID/bench answers them. @throws Error with what the API says is wrong */
async function readPages(path: string): Promise<BenchPage[]> {
  const response = await fetch(path).catch(() => undefined);
  if (!response) throw new Error('The server does not respond.');
  const value = (await response.json().catch(() => undefined)) as
    { error?: { what: string }; pages?: ({ row: { id: number } } & PlanPage)[] } | undefined;
  if (!response.ok || !value?.pages)
    throw new Error(value?.error?.what ?? `The server responded with ${response.status}.`);
  return value.pages.map(({ row, graph, fixes }) => ({ captureId: row.id, graph, fixes }));
}

function answer(ask: Exclude<Ask, { ask: 'story' }>): void {
  switch (ask.ask) {
    case 'bench':
      if (ask.id === latestBench) answerBench(ask);
      return;
    case 'prepare':
      return void prepare(ask.visitor);
    case 'order':
      return say({ answer: 'order', id: ask.id, value: order(ask) });
    case 'target':
      return say({ answer: 'target', id: ask.id, value: target(ask) });
    case 'compare':
      return say({ answer: 'compare', id: ask.id, value: ask.sets.map(compared) });
  }
}

/** The pages that a question is about. */
function asked(within: readonly number[] | undefined): readonly BenchPage[] {
  return within ? pages.filter((p) => within.includes(p.captureId)) : pages;
}

function answerBench(ask: Extract<Ask, { ask: 'bench' }>): void {
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
  void followUp(ask.id, own, ask, figures, answer);
}

/** Whoever clicks again within this, in ms, does not find this thread at the ranges of the click before. */
const NEXT_CLICK_MS = 100;

/** Ranges take longer: they follow a few simulations at a time, and are left alone once there is a newer click. */
async function followUp(
  id: number,
  own: readonly BenchPage[],
  { groups, visitor }: Extract<Ask, { ask: 'bench' }>,
  figures: BenchFigures,
  answer: (extra: Pick<BenchAnswer, 'range' | 'groupRanges'>) => void,
): Promise<void> {
  await new Promise((done) => setTimeout(done, NEXT_CLICK_MS));
  const range = await whileLatest(id, benchRangeSteps(own, groups, visitor, figures));
  if (!range) return;
  answer({ range });
  const ofGroups = await whileLatest(id, groupRangesSteps(own, figures, visitor));
  if (ofGroups) answer({ range, groupRanges: ofGroups });
}

/** Takes steps, letting in what is asked between them; undefined as soon as another bench is asked for. */
async function whileLatest<T>(id: number, steps: Steps<T>): Promise<T | undefined> {
  for (;;) {
    await nextTurn();
    if (latestBench !== id) return undefined;
    const { done, value } = steps.next();
    if (done) return value;
  }
}

/** A first bench, and the draws of every page as it is, which all ranges are made from: until a bench is asked for. */
async function prepare(visitor: Visitor): Promise<void> {
  const asked = latestBench;
  const first = groupFixes(pages).slice(0, 2);
  for (const { id } of first) benchFigures(pages, [id], visitor);
  for (const { graph } of pages) if (!(await whileLatest(asked, samplesSteps(graph, visitor)))) return;
}

const turns = new MessageChannel();
const waiting: (() => void)[] = [];
turns.port1.onmessage = () => waiting.shift()?.();

/** The turn after what is waiting now; timers that follow each other are held up by browsers (HTML, 8.6). */
const nextTurn = () =>
  new Promise<void>((done) => {
    waiting.push(done);
    turns.port2.postMessage(undefined);
  });

/** Averages of pages with groups of fixes: what plans are searched by. */
function averages(own: readonly BenchPage[], visitor: Visitor) {
  const groups = groupFixes(own);
  return { groups, after: averagesOf(own, groups, visitor) };
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

async function answerStory(ask: Extract<Ask, { ask: 'story' }>): Promise<void> {
  const page = await readOne(ask.captureId);
  if (page) say({ answer: 'story', id: ask.id, value: story(page, ask.groups, ask.visitor) });
}

function story(page: BenchPage, groups: readonly string[], visitor: Visitor): StoryAnswer {
  const fixes = fixesOfGroups(groupFixes([page]), groups);
  const afterGraph = applyFixes(page.graph, fixes);
  return {
    ...pageStory(page.captureId, page.graph, visitor),
    after: plainReplay(simulate(afterGraph, visitor)),
    afterGraph,
    why: fixes.length > 0 ? explain(page.graph, fixes, visitor) : [],
    alone: Object.fromEntries(
      page.fixes.map((f) => {
        const { change, range } = forecast(page.graph, [f], visitor);
        return [f.id, { lcpMs: change.lcpMs, fcpMs: change.fcpMs, range: range.lcpMs }];
      }),
    ),
  };
}
