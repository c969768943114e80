import { sql } from 'kysely';
import type { Outcome, OutcomeVerdict } from '../../core/proof/outcomeWords';
import type { Store } from './store';

/** What the list of all sites says of one, besides figures of its sweeps. */
export interface PortfolioRow {
  readonly brokenLimits: number;
  readonly certificateEndsMs?: number;
  readonly brokenPromises: number;
  readonly unread: number;
}

/** A sweep as the list of all sites needs it. */
export interface BriefSweep {
  readonly id: number;
  readonly siteId: number;
  readonly day: string;
  readonly startedAt: string | null;
  readonly endedAt: string | null;
  readonly captures: number;
}

/** Sweeps of all sites, the latest first: one look however many sites there are. */
export async function allSweeps(store: Store): Promise<Map<number, BriefSweep[]>> {
  const rows = await store
    .selectFrom('sweeps')
    .select((e) => [
      'id',
      'site_id as siteId',
      'day',
      'started_at as startedAt',
      'ended_at as endedAt',
      e
        .selectFrom('captures')
        .whereRef('captures.sweep_id', '=', 'sweeps.id')
        .select((c) => c.fn.countAll<number>().as('n'))
        .$asScalar()
        .as('captures'),
    ])
    .orderBy('day', 'desc')
    .orderBy('id', 'desc')
    .$narrowType<{ captures: number }>()
    .execute();
  return grouped(rows);
}

function grouped(rows: readonly BriefSweep[]): Map<number, BriefSweep[]> {
  const out = new Map<number, BriefSweep[]>();
  for (const row of rows) {
    const of = out.get(row.siteId);
    if (of) of.push(row);
    else out.set(row.siteId, [row]);
  }
  return out;
}

const NOT_KEPT: readonly OutcomeVerdict[] = ['less', 'not done', 'partly done', 'came back'];

/** What may need attention on each site, by its id. */
export async function portfolioRows(store: Store): Promise<Map<number, PortfolioRow>> {
  const [limits, certificates, outcomes, unread] = await Promise.all([
    sql<{ siteId: number; n: number }>`
      select watch_limits.site_id as siteId, count(*) as n from watch_limits
      join limit_results on limit_results.limit_id = watch_limits.id
      where limit_results.broken = 1 and limit_results.judged_at =
        (select max(judged_at) from limit_results as latest where latest.limit_id = watch_limits.id)
      group by watch_limits.site_id`.execute(store),
    sql<{ siteId: number; ends: number | null }>`
      select site_id as siteId, first_end as ends from probes
      where id in (select max(id) from probes group by site_id)`.execute(store),
    sql<{ siteId: number; outcome: string }>`
      select site_id as siteId, outcome from outcomes
      where id in (select max(id) from outcomes group by plan_id)`.execute(store),
    sql<{ siteId: number; n: number }>`
      select site_id as siteId, count(*) as n from notices where read_at is null group by site_id`.execute(store),
  ]);
  const out = new Map<number, PortfolioRow>();
  const add = (siteId: number, more: Partial<PortfolioRow>) =>
    out.set(siteId, { ...(out.get(siteId) ?? { brokenLimits: 0, brokenPromises: 0, unread: 0 }), ...more });
  for (const { siteId, n } of limits.rows) add(siteId, { brokenLimits: n });
  for (const { siteId, ends } of certificates.rows) if (ends !== null) add(siteId, { certificateEndsMs: ends });
  for (const { siteId, n } of unread.rows) add(siteId, { unread: n });
  for (const { siteId, outcome } of outcomes.rows) {
    const { fixes } = JSON.parse(outcome) as Outcome;
    const broken = fixes.filter((f) => NOT_KEPT.includes(f.verdict)).length;
    if (broken > 0) add(siteId, { brokenPromises: (out.get(siteId)?.brokenPromises ?? 0) + broken });
  }
  return out;
}
