import type { Concern, Harm } from '../../core/checks/concern';
import { parseVisitor } from '../../core/load/visitors';
import { isGood } from '../../core/site/entrances';
import {
  judgeLimit,
  limitedValue,
  limitText,
  resultText,
  SITE_FIGURES,
  type WatchFacts,
} from '../../core/watch/limits';
import { isCrawlFigure, type CrawledPage } from '../../core/watch/crawlFigures';
import type { Notice } from '../../core/watch/notices';
import { keptFigures, sweepFigures } from '../services/sweepFigures';
import { sweepNews } from '../services/sweepNews';
import { inSweepThread } from '../services/sweepThread';
import { crawledPages } from '../store/crawledPages';
import { lastProbe } from '../store/probes';
import type { Store } from '../store/store';
import { findSweep, listSweeps } from '../store/sweeps';
import { limitResults, listWatchLimits, saveLimitResult, type WatchLimitRow } from '../store/watch/limits';

const DAY_MS = 86_400_000;

/**
 * Judges the limits of a site by a sweep and keeps what they came to.
 * @param by `pages` when pages were recorded, `probe` when only entrances were asked for: what was not looked at again
 *   is not judged again
 * @returns notices of limits that broke, and of those that hold again
 */
export async function judgeSweep(
  store: Store,
  siteId: number,
  sweepId: number,
  by: 'pages' | 'probe',
  now: Date,
): Promise<Notice[]> {
  const limits = (await listWatchLimits(store, siteId)).filter((l) => by === 'pages' || ofProbe(l));
  if (limits.length === 0) return [];
  const earlier = await limitResults(store, siteId);
  const day = (await findSweep(store, sweepId))?.day ?? '';
  const crawled = limits.some((l) => isCrawlFigure(l.figure)) ? await crawledPages(store, sweepId) : undefined;
  const facts = await factsFor(store, siteId, sweepId, now, crawled);
  const notices: Notice[] = [];
  for (const limit of limits) {
    const value = limitedValue(limit, await facts(limit.visitor));
    if (!value) continue;
    // The latest first: the same sweep as it was judged before, else the one before it.
    const before = earlier.find(
      (r) => r.limitId === limit.id && (r.day < day || (r.day === day && r.sweepId <= sweepId)),
    );
    const result = judgeLimit(limit, value, before?.over ?? false);
    const brokenSince = result.broken ? (before?.brokenSince ?? sweepId) : null;
    await saveLimitResult(store, { ...result, limitId: limit.id, sweepId, judgedAt: now.toISOString(), brokenSince });
    const path = `/sites/${siteId}/watch?view=limits`;
    const lines = [resultText(limit, value)];
    if (result.broken)
      notices.push({
        kind: 'limit',
        key: `limit ${limit.id} broken ${brokenSince}`,
        title: `Limit broken: ${limitText(limit)}`,
        lines,
        path,
      });
    else if (before?.broken)
      notices.push({
        kind: 'limit',
        key: `limit ${limit.id} holds ${before.brokenSince}`,
        title: `Limit holds again: ${limitText(limit)}`,
        lines,
        path,
      });
  }
  return notices;
}

const ofProbe = (limit: WatchLimitRow): boolean =>
  limit.figure !== 'newFindings' && SITE_FIGURES.includes(limit.figure as (typeof SITE_FIGURES)[number]);

/** What limits ask of a sweep, by visitor. */
async function factsFor(
  store: Store,
  siteId: number,
  sweepId: number,
  now: Date,
  crawled: readonly CrawledPage[] | undefined,
) {
  const probe = await lastProbe(store, siteId);
  const days = (probe?.certificates ?? []).map((c) => c.daysLeft);
  const since = probe ? Math.max(0, Math.floor((now.getTime() - Date.parse(probe.askedAt)) / DAY_MS)) : 0;
  const ofProbe = probe && {
    certificateDays: days.length > 0 ? Math.min(...days) - since : undefined,
    faultyEntrances: probe.entrances.filter((e) => !isGood(e.verdict)).length,
  };
  const made = new Map<string, WatchFacts>();
  // The same for every visitor.
  const news = await newsOf(store, siteId, sweepId);
  return async (visitor: string): Promise<WatchFacts> => {
    const known = made.get(visitor);
    if (known) return known;
    const pages = await sweepFigures(store, sweepId, parseVisitor(visitor));
    const facts = { pages, crawled, news, ...ofProbe };
    made.set(visitor, facts);
    return facts;
  };
}

async function newsOf(
  store: Store,
  siteId: number,
  sweepId: number,
): Promise<{ concern: Concern; harm: Harm }[] | undefined> {
  if ((await listSweeps(store, siteId)).filter((s) => s.captures > 0).length < 2) return undefined;
  const { news } = await sweepNews(store, { id: sweepId, siteId }, 'phone');
  return news && [...news.appeared, ...news.cameBack];
}

/** Judges the limits of a site by a sweep as soon as one was set; figures that are missing are made in a thread. */
export async function judgeNow(store: Store, siteId: number, sweepId: number): Promise<void> {
  const visitors = new Set((await listWatchLimits(store, siteId)).map((l) => l.visitor));
  for (const visitor of visitors)
    if (!(await keptFigures(store, sweepId, parseVisitor(visitor))))
      await inSweepThread(store, sweepId, { make: 'figures', visitor });
  await judgeSweep(store, siteId, sweepId, 'pages', new Date());
}
