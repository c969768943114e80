import { CONCERNS, type Concern } from '../checks/concern';
import { applyFixes } from '../fixes/applyFixes';
import type { Discovery } from '../load/graph';
import type { HeroSplit } from '../load/replay';
import { simulate } from '../load/simulate';
import type { Visitor } from '../load/visitors';
import { averageWith, type Average } from './averages';
import { buildStaircase, groupFixes, type FixGroup, type PlanPage, type Staircase } from './staircase';

/** A recorded page of a sweep, ready to be simulated. */
export interface ForecastPage extends PlanPage {
  readonly captureId: number;
  /** Concern of each finding, by its id. */
  readonly concerns: Readonly<Record<string, Concern>>;
}

/** A group of fixes as lists show it: what it does and what it removes, without its edits. */
export interface GroupInfo extends Omit<FixGroup, 'fixes'> {
  /** Ids of the findings that it removes. */
  readonly findings: readonly string[];
  /** Concern of the first of them: where the group is listed. */
  readonly concern: Concern;
}

/** What the recorded pages of a sweep say for one visitor while nothing is on the bench. */
export interface SweepForecast {
  readonly now: Average;
  /** Average hero paint with every offered fix, ms. */
  readonly allFixesMs: number;
  readonly staircase: Staircase<GroupInfo>;
  /** What each concern costs each page, ms of hero paint. */
  readonly costs: readonly { readonly captureId: number; readonly concern: Concern; readonly ms: number }[];
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
    const findings = [...new Set(fixes.flatMap((f) => f.findings))];
    return { ...info, findings, concern: findings.map((id) => concerns[id]).find(Boolean) ?? 'hero' };
  });
}

/** Simulates every page for a visitor, and finds the best order of what can be done. Takes about a second. */
export function forecastSweep(pages: readonly ForecastPage[], visitor: Visitor): SweepForecast {
  const infos = new Map(groupInfos(pages).map((g) => [g.id, g]));
  const { stairs, ...rest } = buildStaircase(pages, visitor);
  const replays = pages.map((page) => ({ page, replay: simulate(page.graph, visitor) }));
  const [first] = [...replays].sort((a, b) => b.replay.milestones.lcpMs - a.replay.milestones.lcpMs);
  return {
    now: averageWith(pages, [], visitor),
    allFixesMs: averageWith(
      pages,
      pages.flatMap((p) => p.fixes),
      visitor,
    ).lcpMs,
    staircase: { ...rest, stairs: stairs.map((s) => ({ ...s, group: infos.get(s.group.id) as GroupInfo })) },
    costs: replays.flatMap(({ page, replay }) => costsOf(page, replay.milestones.lcpMs, visitor)),
    slowest: first && {
      captureId: first.page.captureId,
      lcpMs: first.replay.milestones.lcpMs,
      split: first.replay.split,
      place: first.replay.heroPlace,
      requests: first.replay.milestones.requests,
      foundBy: first.page.graph.fetches[first.page.graph.hero.fetch]?.discovery.by,
    },
    pages: replays.map(({ page, replay }) => ({
      captureId: page.captureId,
      nowMs: replay.milestones.lcpMs,
      nowFcpMs: replay.milestones.fcpMs,
    })),
  };
}

function costsOf(page: ForecastPage, nowMs: number, visitor: Visitor): SweepForecast['costs'] {
  const found = Object.values(page.concerns);
  return CONCERNS.filter(({ id }) => found.includes(id)).map(({ id: concern }) => {
    const fixes = page.fixes.filter((f) => f.findings.some((id) => page.concerns[id] === concern));
    const ms = fixes.length > 0 ? nowMs - simulate(applyFixes(page.graph, fixes), visitor).milestones.lcpMs : 0;
    return { captureId: page.captureId, concern, ms: Math.max(0, ms) };
  });
}
