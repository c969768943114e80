import type { Visitor } from '../../core/load/visitors';
import { historyPoints, type History, type HistoryEvent, type HistoryQuestion } from '../../core/watch/history';
import type { PageFigures } from '../../core/watch/figures';
import { limitText, resultText } from '../../core/watch/limits';
import { listOutcomes } from '../store/outcomes';
import { listPlans } from '../store/plans';
import type { Store } from '../store/store';
import { listSweeps } from '../store/sweeps';
import { limitResults, listWatchLimits } from '../store/watch/limits';
import { listVisits, listWatched } from '../store/watch/watchedPages';
import { keptFigures } from './sweepFigures';
import { inSweepThread } from './sweepThread';

/** Sweeps of a site that a history reaches back at most. */
const MOST_SWEEPS = 120;

/** A figure over all sweeps of a site with what happened meanwhile. */
export async function figureHistory(
  store: Store,
  siteId: number,
  question: HistoryQuestion,
  visitor: Visitor,
): Promise<History> {
  const sweeps = (await listSweeps(store, siteId))
    .filter((s) => s.captures > 0)
    .slice(0, MOST_SWEEPS)
    .reverse();
  const recorded: { id: number; day: string; pages: readonly PageFigures[] }[] = [];
  for (const sweep of sweeps) {
    const pages =
      (await keptFigures(store, sweep.id, visitor)) ??
      (await inSweepThread<readonly PageFigures[]>(store, sweep.id, { make: 'figures', visitor: visitor.id })) ??
      [];
    recorded.push({ id: sweep.id, day: sweep.day, pages });
  }
  const { points, common } = historyPoints(question, recorded);
  const first = points[0]?.day ?? '';
  const events = [
    ...(await limitEvents(store, siteId)),
    ...(await fixEvents(store, siteId)),
    ...(await changeEvents(store, siteId, question)),
  ];
  return {
    figure: question.figure,
    points,
    common,
    events: events.filter((e) => e.day >= first).sort((a, b) => (a.day < b.day ? -1 : 1)),
  };
}

/** Limits that broke, and that hold again. */
async function limitEvents(store: Store, siteId: number): Promise<HistoryEvent[]> {
  const limits = new Map((await listWatchLimits(store, siteId)).map((l) => [l.id, l]));
  return (await limitResults(store, siteId)).flatMap((r) => {
    const limit = limits.get(r.limitId);
    if (!limit || !r.broken || r.brokenSince !== r.sweepId) return [];
    return [
      {
        day: r.day,
        kind: 'limit' as const,
        text: `Limit broken: ${limitText(limit)}. ${resultText(limit, r)}`,
        path: `/sites/${siteId}/watch?view=limits`,
      },
    ];
  });
}

/** Fixes that are said to be done, on the day on which a sweep first saw what became of them. */
async function fixEvents(store: Store, siteId: number): Promise<HistoryEvent[]> {
  const out: HistoryEvent[] = [];
  for (const plan of await listPlans(store, siteId)) {
    const looks = (await listOutcomes(store, plan.id)).reverse();
    const seen = new Set<string>();
    for (const { lookedAt, outcome } of looks)
      for (const fix of outcome.fixes) {
        if (seen.has(fix.group)) continue;
        seen.add(fix.group);
        out.push({
          day: lookedAt.slice(0, 10),
          kind: 'fix',
          text: `${plan.name}: ${fix.title} (done)`,
          path: `/sites/${siteId}/plan`,
        });
      }
  }
  return out;
}

/** Changes of watched pages; of one page when the question is of one. */
async function changeEvents(store: Store, siteId: number, { scope }: HistoryQuestion): Promise<HistoryEvent[]> {
  const pages = new Map((await listWatched(store, siteId)).map((p) => [p.id, p.url]));
  return (await listVisits(store, siteId)).flatMap((visit) => {
    const url = pages.get(visit.watchedId) ?? '';
    const n = visit.changes?.length ?? 0;
    if (n === 0 || (scope.kind === 'page' && scope.page !== url)) return [];
    const text = `${url.replace(/^https?:\/\//, '')} changed (${n === 1 ? '1 place' : `${n} places`})`;
    return [
      {
        day: visit.seenAt.slice(0, 10),
        kind: 'change' as const,
        text,
        path: `/sites/${siteId}/watch?view=changes#visit-${visit.id}`,
      },
    ];
  });
}
