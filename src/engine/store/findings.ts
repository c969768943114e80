import type { Finding } from '../../core/checks/finding';
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
    .where('captures.id', 'in', (s) =>
      s.selectFrom('captures').select((e) => e.fn.max('id').as('id')).where('sweep_id', '=', q.sweepId).groupBy(['page', 'device']),
    );
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
export async function countFindings(store: Store, sweepId: number, device: 'phone' | 'desktop'): Promise<Record<string, number>> {
  const rows = await store
    .selectFrom('findings')
    .innerJoin('captures', 'captures.id', 'findings.capture_id')
    .where('captures.sweep_id', '=', sweepId)
    .where('captures.device', '=', device)
    .where('captures.id', 'in', (s) =>
      s.selectFrom('captures').select((e) => e.fn.max('id').as('id')).where('sweep_id', '=', sweepId).groupBy(['page', 'device']),
    )
    .select((e) => ['findings.concern', e.fn.countAll<number>().as('n')])
    .groupBy('findings.concern')
    .execute();
  return Object.fromEntries(rows.map((r) => [r.concern, r.n]));
}
