import { CONCERNS, type Concern } from '../checks/concern';
import type { Discovery } from '../load/graph';
import type { HeroSplit } from '../load/replay';
import { simulate } from '../load/simulate';
import type { Visitor } from '../load/visitors';
import { averageWith, fixesByPage, milestonesWith, type Average } from './averages';
import { buildStaircase, groupFixes, type FixGroup, type PlanPage, type Stair, type Staircase } from './staircase';

/** A recorded page of a sweep, ready to be simulated. */
export interface ForecastPage extends PlanPage {
  readonly captureId: number;
  /** Concern of each finding, by its id. */
  readonly concerns: Readonly<Record<string, Concern>>;
}

/** A group of fixes as lists show it: what it does, without its edits. */
export interface GroupInfo extends Omit<FixGroup, 'fixes'> {
  /** Concern of the first finding that it removes: where the group is listed. */
  readonly concern: Concern;
}

/** A recorded page, by the id of its capture, with what something wins or costs there: ms of hero paint. */
export type PageMs = readonly [captureId: number, ms: number];

/** What a group of fixes wins alone on each recorded page that it concerns. */
export interface GroupGains {
  readonly group: string;
  readonly pages: readonly PageMs[];
}

/** A stair with what its group wins alone on each of its pages. */
export interface SweepStair extends Stair<GroupInfo> {
  readonly gains: readonly PageMs[];
}

/** What the recorded pages of a sweep say for one visitor while nothing is on the bench. */
export interface SweepForecast {
  readonly now: Average;
  /** Average hero paint with every offered fix, ms. */
  readonly allFixesMs: number;
  readonly staircase: Omit<Staircase, 'stairs'> & { readonly stairs: readonly SweepStair[] };
  /** What each concern costs each page that has findings of it. */
  readonly costs: Readonly<Partial<Record<Concern, readonly PageMs[]>>>;
  readonly slowest?: SlowestHero;
  readonly pages: readonly { readonly captureId: number; readonly nowMs: number; readonly nowFcpMs: number }[];
}

/** The page whose hero is painted last, and where its time goes. */
export interface SlowestHero {
  readonly captureId: number;
  readonly lcpMs: number;
  readonly split: HeroSplit;
  readonly place: number;
  readonly requests: number;
  /** How the browser learns of the hero's file; undefined for a text hero. */
  readonly foundBy?: Discovery['by'];
}

/** The groups of fixes that pages offer, as lists show them. */
export function groupInfos(pages: readonly ForecastPage[]): GroupInfo[] {
  const concerns: Record<string, Concern> = Object.assign({}, ...pages.map((p) => p.concerns));
  return groupFixes(pages).map(({ fixes, ...info }) => {
    const found = fixes.flatMap((f) => f.findings).find((id) => concerns[id] !== undefined);
    return { ...info, concern: (found && concerns[found]) || 'hero' };
  });
}

/** Ids of the findings that each group of fixes removes, by the group. */
export function findingsByGroup(pages: readonly ForecastPage[]): [group: string, findings: readonly string[]][] {
  return groupFixes(pages).map((g) => [g.id, [...new Set(g.fixes.flatMap((f) => f.findings))]]);
}

/** What every group of fixes that pages offer wins alone on each page that it concerns, to the ms. */
export function gainsOf(pages: readonly ForecastPage[], visitor: Visitor): GroupGains[] {
  const byAddress = new Map<string, ForecastPage[]>();
  for (const p of pages) {
    const own = byAddress.get(p.graph.page);
    if (own) own.push(p);
    else byAddress.set(p.graph.page, [p]);
  }
  return groupFixes(pages).map((group) => ({
    group: group.id,
    pages: [...fixesByPage(group.fixes)].flatMap(([address, fixes]) =>
      (byAddress.get(address) ?? []).map(({ captureId, graph }): PageMs => {
        const wonMs = milestonesWith(graph, [], visitor).lcpMs - milestonesWith(graph, fixes, visitor).lcpMs;
        return [captureId, Math.round(wonMs)];
      }),
    ),
  }));
}

/** Simulates every page for a visitor, and finds the best order of what can be done. Takes about a second. */
export function forecastSweep(
  pages: readonly ForecastPage[],
  visitor: Visitor,
  gains = gainsOf(pages, visitor),
): SweepForecast {
  const infos = new Map(groupInfos(pages).map((g) => [g.id, g]));
  const gainsById = new Map(gains.map((g) => [g.group, g.pages]));
  const { stairs, ...rest } = buildStaircase(pages, visitor);
  const times = pages.map((page) => {
    const { lcpMs, fcpMs } = milestonesWith(page.graph, [], visitor);
    return { captureId: page.captureId, nowMs: lcpMs, nowFcpMs: fcpMs };
  });
  return {
    now: averageWith(pages, [], visitor),
    allFixesMs: averageWith(
      pages,
      pages.flatMap((p) => p.fixes),
      visitor,
    ).lcpMs,
    staircase: {
      ...rest,
      stairs: stairs.map((s) => ({
        ...s,
        group: infos.get(s.group.id) as GroupInfo,
        gains: gainsById.get(s.group.id) ?? [],
      })),
    },
    costs: costsOf(pages, visitor),
    slowest: slowestOf(pages, visitor),
    pages: times,
  };
}

/** The page whose hero is painted last; of several the first. Only its load is simulated whole: others take memory. */
function slowestOf(pages: readonly ForecastPage[], visitor: Visitor): SlowestHero | undefined {
  const lcpOf = (page: ForecastPage) => milestonesWith(page.graph, [], visitor).lcpMs;
  const [first] = [...pages].sort((a, b) => lcpOf(b) - lcpOf(a));
  if (!first) return undefined;
  const { milestones, split, heroPlace } = simulate(first.graph, visitor);
  return {
    captureId: first.captureId,
    lcpMs: milestones.lcpMs,
    split,
    place: heroPlace,
    requests: milestones.requests,
    foundBy: first.graph.fetches[first.graph.hero.fetch]?.discovery.by,
  };
}

function costsOf(pages: readonly ForecastPage[], visitor: Visitor): SweepForecast['costs'] {
  const out: Partial<Record<Concern, PageMs[]>> = {};
  for (const page of pages) {
    const nowMs = milestonesWith(page.graph, [], visitor).lcpMs;
    const found = new Set(Object.values(page.concerns));
    for (const { id: concern } of CONCERNS.filter(({ id }) => found.has(id))) {
      const fixes = page.fixes.filter((f) => f.findings.some((id) => page.concerns[id] === concern));
      const costMs = Math.round(nowMs - milestonesWith(page.graph, fixes, visitor).lcpMs);
      (out[concern] ??= []).push([page.captureId, Math.max(0, costMs)]);
    }
  }
  return out;
}
