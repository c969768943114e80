import { sql } from 'kysely';
import { HOST_CHECKS } from '../../core/checks';
import type { Concern } from '../../core/checks/concern';
import type { Finding } from '../../core/checks/finding';
import { latestOf } from './captures';
import type { Store } from './store';

/** Which findings of a sweep are meant. */
export interface FindingFilter {
  readonly sweepId: number;
  readonly device: 'phone' | 'desktop';
  readonly concern?: string;
  /** Worst harm of a cause; several with commas. */
  readonly harm?: string;
  readonly check?: string;
  readonly cause?: string;
  /** These findings only. */
  readonly ids?: readonly string[];
  /** First part of the page's path, `/plants/`. */
  readonly folder?: string;
  /** Id of a template of the sweep. */
  readonly template?: string;
  /** Host of what is at fault. */
  readonly host?: string;
  /** Words that page, target or title must contain. */
  readonly search?: string;
  /** Muted ones: left out (the default), alone, or along with the others. */
  readonly muted?: 'no' | 'only' | 'all';
}

/** How findings are listed. */
export interface FindingQuery extends FindingFilter {
  readonly sort?: 'page' | 'target' | 'check' | 'harm' | 'title';
  readonly descending?: boolean;
  readonly limit: number;
  readonly offset: number;
}

/** A finding with the capture it belongs to. */
export type FindingRow = Finding & { readonly captureId: number };

/** True in SQL for a finding that its site has muted, by itself, by its cause or by its check. */
export const isMuted = sql<boolean>`exists (
  select 1 from mutes m where m.site_id = captures.site_id and (
    (m.scope = 'check' and m.value = findings."check") or
    (m.scope = 'cause' and m.value = findings.cause) or
    (m.scope = 'finding' and m.value = findings.id)))`;

const RANKS: readonly string[] = ['broken', 'exposed', 'slow', 'tidy'];

/** In SQL: 0 for the worst harm, 3 for the least. */
export const RANK = sql<number>`case findings.harm when 'broken' then 0 when 'exposed' then 1 when 'slow' then 2 else 3 end`;

/** Findings of the latest captures of a sweep that fit a filter, with their captures and, where known, their pages. */
export function findingsWhere(store: Store, q: FindingFilter) {
  let base = store
    .selectFrom('findings')
    .innerJoin('captures', 'captures.id', 'findings.capture_id')
    .leftJoin('pages', (j) =>
      j.onRef('pages.sweep_id', '=', 'captures.sweep_id').onRef('pages.url', '=', 'captures.page'),
    )
    .where('captures.sweep_id', '=', q.sweepId)
    .where('captures.device', '=', q.device)
    .where('captures.id', 'in', (s) => latestOf(s.selectFrom('captures as latest'), q.sweepId));
  for (const name of ['concern', 'check', 'cause', 'folder', 'host'] as const) {
    const value = q[name];
    if (value !== undefined && value !== '') base = base.where(`findings.${name}`, '=', value);
  }
  if (q.template) base = base.where('pages.template', '=', q.template);
  if (q.search) {
    const like = `%${q.search.replace(/[%_\\]/g, '\\$&')}%`;
    base = base.where((e) =>
      e.or(
        (['page', 'target', 'title'] as const).map(
          (c) => sql<boolean>`${e.ref(`findings.${c}`)} like ${like} escape '\\'`,
        ),
      ),
    );
  }
  if (q.ids) base = base.where('findings.id', 'in', [...q.ids]);
  if (q.harm) {
    // A cause is as bad as its worst finding, and stands in one list only.
    const ranks = q.harm.split(',').map((h) => RANKS.indexOf(h));
    const causes = findingsWhere(store, { ...q, harm: undefined })
      .select('findings.cause')
      .groupBy('findings.cause')
      .having((e) => e(e.fn.min<number>(RANK), 'in', ranks));
    base = base.where('findings.cause', 'in', causes);
  }
  if (q.muted !== 'all') base = base.where(q.muted === 'only' ? isMuted : sql<boolean>`not ${isMuted}`);
  return base;
}

/** One page of findings and how many there are in all; filtered and sorted in SQL. */
export async function listFindings(store: Store, q: FindingQuery): Promise<{ total: number; rows: FindingRow[] }> {
  const base = findingsWhere(store, q);
  const { total } = await base.select((e) => e.fn.countAll<number>().as('total')).executeTakeFirstOrThrow();
  const sort = `findings.${q.sort ?? 'page'}` as const;
  const rows = await base
    .select(['findings.json', 'findings.capture_id as captureId'])
    .orderBy(sort, q.descending ? 'desc' : 'asc')
    .orderBy('findings.id')
    .limit(q.limit)
    .offset(q.offset)
    .execute();
  return { total, rows: rows.map((r) => ({ ...(JSON.parse(r.json) as Finding), captureId: r.captureId })) };
}

/** Number of causes by concern, for the rail; what is muted does not count. */
export async function countCauses(
  store: Store,
  sweepId: number,
  device: 'phone' | 'desktop',
): Promise<Record<string, number>> {
  const rows = await findingsWhere(store, { sweepId, device })
    .select((e) => ['findings.concern', e.fn.count<number>('findings.cause').distinct().as('n')])
    .groupBy('findings.concern')
    .execute();
  return Object.fromEntries(rows.map((r) => [r.concern, r.n]));
}

/** Number of different causes among the findings that fit a filter. */
export async function countCausesOf(store: Store, q: FindingFilter): Promise<number> {
  const { n } = await findingsWhere(store, q)
    .select((e) => e.fn.count<number>('findings.cause').distinct().as('n'))
    .executeTakeFirstOrThrow();
  return n;
}

/** How many of these captures have nothing that breaks, exposes or slows; faults of a whole host count for no page. */
export async function countClean(store: Store, ids: readonly number[]): Promise<number> {
  if (ids.length === 0) return 0;
  const faulty = await store
    .selectFrom('findings')
    .innerJoin('captures', 'captures.id', 'findings.capture_id')
    .select('findings.capture_id')
    .distinct()
    .where('findings.capture_id', 'in', [...ids])
    .where('findings.harm', '!=', 'tidy')
    .where('findings.check', 'not in', [...HOST_CHECKS])
    .where(sql<boolean>`not ${isMuted}`)
    .execute();
  return ids.length - faulty.length;
}

/** Findings of captures that are not muted, by capture; of one concern where it is named. */
export async function findingsOfCaptures(
  store: Store,
  ids: readonly number[],
  concern?: Concern,
): Promise<Map<number, Finding[]>> {
  const out = new Map<number, Finding[]>();
  if (ids.length === 0) return out;
  const rows = await store
    .selectFrom('findings')
    .innerJoin('captures', 'captures.id', 'findings.capture_id')
    .select(['findings.capture_id', 'findings.json'])
    .where('findings.capture_id', 'in', [...ids])
    .$if(concern !== undefined, (q) => q.where('findings.concern', '=', concern ?? ''))
    .where(sql<boolean>`not ${isMuted}`)
    .execute();
  for (const row of rows) {
    const own = out.get(row.capture_id) ?? [];
    own.push(JSON.parse(row.json) as Finding);
    out.set(row.capture_id, own);
  }
  return out;
}

/** Concern of every finding that is not muted, by capture. */
export async function concernsOfFindings(
  store: Store,
  ids: readonly number[],
): Promise<Map<number, Record<string, string>>> {
  const out = new Map<number, Record<string, string>>();
  if (ids.length === 0) return out;
  const rows = await store
    .selectFrom('findings')
    .innerJoin('captures', 'captures.id', 'findings.capture_id')
    .select(['findings.capture_id', 'findings.id', 'findings.concern'])
    .where('findings.capture_id', 'in', [...ids])
    .where(sql<boolean>`not ${isMuted}`)
    .execute();
  for (const row of rows) {
    const own = out.get(row.capture_id) ?? {};
    own[row.id] = row.concern;
    out.set(row.capture_id, own);
  }
  return out;
}
