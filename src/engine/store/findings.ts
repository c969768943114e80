import type { Finding } from '../../core/checks/finding';
import { latestOf } from './captures';
import type { Store } from './store';

/** How findings are listed. */
export interface FindingQuery {
  readonly sweepId: number;
  readonly device: 'phone' | 'desktop';
  readonly concern?: string;
  readonly harm?: string;
  readonly check?: string;
  /** Words that page, target or title must contain. */
  readonly search?: string;
  readonly sort?: 'page' | 'target' | 'check' | 'harm' | 'title';
  readonly descending?: boolean;
  readonly limit: number;
  readonly offset: number;
}

/** A finding with the capture it belongs to. */
export type FindingRow = Finding & { readonly captureId: number };

/** One page of findings and how many there are in all; filtered and sorted in SQL. */
export async function listFindings(store: Store, q: FindingQuery): Promise<{ total: number; rows: FindingRow[] }> {
  let base = store
    .selectFrom('findings')
    .innerJoin('captures', 'captures.id', 'findings.capture_id')
    .where('captures.sweep_id', '=', q.sweepId)
    .where('captures.device', '=', q.device)
    .where('captures.id', 'in', (s) => latestOf(s.selectFrom('captures as latest'), q.sweepId));
  if (q.concern) base = base.where('findings.concern', '=', q.concern);
  if (q.harm) base = base.where('findings.harm', '=', q.harm);
  if (q.check) base = base.where('findings.check', '=', q.check);
  if (q.search) {
    const like = `%${q.search.replace(/[%_\\]/g, '\\$&')}%`;
    base = base.where((e) =>
      e.or((['findings.page', 'findings.target', 'findings.title'] as const).map((c) => e(c, 'like', like))),
    );
  }
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

/** Number of findings by concern, for the rail. */
export async function countFindings(
  store: Store,
  sweepId: number,
  device: 'phone' | 'desktop',
): Promise<Record<string, number>> {
  const rows = await store
    .selectFrom('findings')
    .innerJoin('captures', 'captures.id', 'findings.capture_id')
    .where('captures.sweep_id', '=', sweepId)
    .where('captures.device', '=', device)
    .where('captures.id', 'in', (s) => latestOf(s.selectFrom('captures as latest'), sweepId))
    .select((e) => ['findings.concern', e.fn.countAll<number>().as('n')])
    .groupBy('findings.concern')
    .execute();
  return Object.fromEntries(rows.map((r) => [r.concern, r.n]));
}

/** How many of these captures have nothing that breaks, exposes or slows. */
export async function countClean(store: Store, ids: readonly number[]): Promise<number> {
  if (ids.length === 0) return 0;
  const faulty = await store
    .selectFrom('findings')
    .select('capture_id')
    .distinct()
    .where('capture_id', 'in', [...ids])
    .where('harm', '!=', 'tidy')
    .execute();
  return ids.length - faulty.length;
}

/** Concern of every finding, by capture. */
export async function concernsOfFindings(
  store: Store,
  ids: readonly number[],
): Promise<Map<number, Record<string, string>>> {
  const out = new Map<number, Record<string, string>>();
  if (ids.length === 0) return out;
  const rows = await store
    .selectFrom('findings')
    .select(['capture_id', 'id', 'concern'])
    .where('capture_id', 'in', [...ids])
    .execute();
  for (const row of rows) {
    const own = out.get(row.capture_id) ?? {};
    own[row.id] = row.concern;
    out.set(row.capture_id, own);
  }
  return out;
}
