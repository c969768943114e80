import { sql } from 'kysely';
import type { Harm } from '../../core/checks/concern';
import type { Finding } from '../../core/checks/finding';
import { findingsWhere, isMuted, RANK, type FindingFilter } from './findings';
import type { Store } from './store';

/** One place of a cause. */
export interface CausePlace {
  readonly id: string;
  readonly captureId: number;
  readonly page: string;
  readonly linksIn: number;
  readonly source?: { readonly url: string; readonly line: number };
}

/** Findings that one change removes. */
export interface CauseRow {
  readonly cause: string;
  readonly check: string;
  readonly concern: string;
  readonly harm: Harm;
  readonly findings: number;
  readonly pages: number;
  /** Different files or addresses among its findings. */
  readonly targets: number;
  /** Sum over its pages of clicks or, without a search export, links in; one more each: how many visits may meet it. */
  readonly reach: number;
  readonly muted: boolean;
  readonly first: Finding & { readonly captureId: number };
  readonly places: readonly CausePlace[];
}

const HARMS: readonly Harm[] = ['broken', 'exposed', 'slow', 'tidy'];
const PLACES = 6;

/** Causes of a sweep, the worst harm first, then the most reach; with six places each, the most linked page first. */
export async function listCauses(
  store: Store,
  q: FindingFilter & { readonly limit: number },
): Promise<{ total: number; findings: number; causes: CauseRow[] }> {
  const pages = findingsWhere(store, q)
    .select((e) => [
      'findings.cause',
      'findings.page',
      e.fn.min(RANK).as('rank'),
      e.fn.countAll<number>().as('n'),
      sql<number>`coalesce(max(coalesce(pages.clicks, pages.links_in)), 0) + 1`.as('reach'),
      sql<number>`max(${isMuted})`.as('muted'),
    ])
    .groupBy(['findings.cause', 'findings.page']);
  const rows = await store
    .selectFrom(pages.as('p'))
    .select((e) => [
      'p.cause',
      e.fn.min<number>('p.rank').as('rank'),
      e.fn.sum<number>('p.n').as('findings'),
      e.fn.countAll<number>().as('pages'),
      e.fn.sum<number>('p.reach').as('reach'),
      e.fn.max<number>('p.muted').as('muted'),
    ])
    .groupBy('p.cause')
    .orderBy('rank')
    .orderBy('reach', 'desc')
    .orderBy('p.cause')
    .execute();
  const shown = rows.slice(0, q.limit);
  const targets = new Map(
    (
      await findingsWhere(store, q)
        .select((e) => ['findings.cause', e.fn.count<number>('findings.target').distinct().as('n')])
        .groupBy('findings.cause')
        .execute()
    ).map((r) => [r.cause, r.n]),
  );
  const examples = await examplesOf(
    store,
    q,
    shown.map((r) => r.cause),
  );
  return {
    total: rows.length,
    findings: rows.reduce((sum, r) => sum + r.findings, 0),
    causes: shown.flatMap((r) => {
      const own = examples.get(r.cause);
      const first = own?.[0];
      if (!own || !first) return [];
      return [
        {
          cause: r.cause,
          check: first.finding.check,
          concern: first.finding.concern,
          harm: HARMS[r.rank] ?? 'tidy',
          findings: r.findings,
          pages: r.pages,
          targets: targets.get(r.cause) ?? 1,
          reach: r.reach,
          muted: r.muted === 1,
          first: { ...first.finding, captureId: first.captureId },
          places: own.map(({ finding: f, captureId, linksIn }) => ({
            id: f.id,
            captureId,
            page: f.page,
            linksIn,
            source: f.evidence.source && { url: f.evidence.source.url, line: f.evidence.source.line },
          })),
        },
      ];
    }),
  };
}

interface Example {
  readonly finding: Finding;
  readonly captureId: number;
  readonly linksIn: number;
}

async function examplesOf(store: Store, q: FindingFilter, causes: readonly string[]): Promise<Map<string, Example[]>> {
  const out = new Map<string, Example[]>();
  for (let i = 0; i < causes.length; i += 500) {
    const ranked = findingsWhere(store, q)
      .where('findings.cause', 'in', causes.slice(i, i + 500))
      .select([
        'findings.cause',
        'findings.json',
        'findings.capture_id as captureId',
        sql<number>`coalesce(pages.clicks, pages.links_in, 0)`.as('linksIn'),
        'findings.page',
        RANK.as('rank'),
        // One place a page: the worst there.
        sql<number>`row_number() over (partition by findings.cause, findings.page order by ${RANK}, findings.id)`.as(
          'onPage',
        ),
      ]);
    const placed = store
      .selectFrom(ranked.as('r'))
      .select([
        'r.cause',
        'r.json',
        'r.captureId',
        'r.linksIn',
        sql<number>`row_number() over (partition by r.cause order by r.rank, r."linksIn" desc, r.page)`.as('place'),
      ])
      .where('r.onPage', '=', 1);
    const rows = await store
      .selectFrom(placed.as('p'))
      .select(['p.cause', 'p.json', 'p.captureId', 'p.linksIn'])
      .where('p.place', '<=', PLACES)
      .orderBy('p.cause')
      .orderBy('p.place')
      .execute();
    for (const row of rows) {
      const list = out.get(row.cause) ?? [];
      list.push({ finding: JSON.parse(row.json) as Finding, captureId: row.captureId, linksIn: row.linksIn });
      out.set(row.cause, list);
    }
  }
  return out;
}

/** One value that a list can be narrowed by. */
export interface Facet {
  readonly value: string;
  readonly name: string;
  readonly causes: number;
}

/** What a list of causes can be narrowed by, with the number of causes that each choice leaves beside the others. */
export async function listFacets(
  store: Store,
  q: FindingFilter,
): Promise<Record<'harms' | 'checks' | 'folders' | 'templates' | 'hosts', Facet[]>> {
  const by = async (column: 'check' | 'folder' | 'host'): Promise<Facet[]> => {
    const rows = await findingsWhere(store, { ...q, [column]: undefined })
      .select((e) => [`findings.${column} as value`, e.fn.count<number>('findings.cause').distinct().as('causes')])
      .groupBy(`findings.${column}`)
      .orderBy('causes', 'desc')
      .limit(200)
      .execute();
    return rows.filter((r) => r.value !== '').map((r) => ({ value: r.value, name: r.value, causes: r.causes }));
  };
  const templates = await findingsWhere(store, { ...q, template: undefined })
    .innerJoin('templates', (j) =>
      j.onRef('templates.sweep_id', '=', 'captures.sweep_id').onRef('templates.template', '=', 'pages.template'),
    )
    .select((e) => [
      'templates.template as value',
      'templates.name',
      e.fn.count<number>('findings.cause').distinct().as('causes'),
    ])
    .groupBy('templates.template')
    .orderBy('causes', 'desc')
    .execute();
  return {
    harms: await byHarm(store, q),
    checks: await by('check'),
    folders: await by('folder'),
    hosts: await by('host'),
    templates,
  };
}

/** Causes by their worst harm. */
async function byHarm(store: Store, q: FindingFilter): Promise<Facet[]> {
  const worst = findingsWhere(store, { ...q, harm: undefined })
    .select((e) => ['findings.cause', e.fn.min<number>(RANK).as('rank')])
    .groupBy('findings.cause');
  const rows = await store
    .selectFrom(worst.as('w'))
    .select((e) => ['w.rank', e.fn.countAll<number>().as('causes')])
    .groupBy('w.rank')
    .orderBy('w.rank')
    .execute();
  return rows.map((r) => {
    const harm = HARMS[r.rank] ?? 'tidy';
    return { value: harm, name: harm, causes: r.causes };
  });
}
