import { sql } from 'kysely';
import { COVERAGE, type CoverageCounts, type CoverageState } from '../../core/site/coverage';
import type { Store } from './store';

/** Addresses of a sweep by state, in all and by folder or template. */
export interface Coverage {
  readonly total: number;
  readonly counts: CoverageCounts;
  readonly groups: readonly { readonly key: string; readonly name: string; readonly counts: CoverageCounts }[];
}

/** One address with its state. */
export interface CoveredAddress {
  readonly pageId: number;
  readonly url: string;
  readonly state: CoverageState;
  readonly status: number | null;
  readonly to: string | null;
}

/**
 * The state of each address of a sweep, as an SQL expression: the first that applies.
 * @param httpToo https addresses whose http form was seen to respond
 */
function stateOf(httpToo: readonly string[]) {
  const asked = httpToo.length > 0 ? sql<boolean>`pages.url in (${sql.join(httpToo)})` : sql<boolean>`0`;
  return sql<CoverageState>`case
    when pages.state in ('waiting', 'skipped') then 'not-asked'
    when pages.state = 'failed' or pages.status is null then 'missing'
    when pages.redirect_to is not null then
      case when pages.hop_count = 1 and pages.status in (301, 308) and pages.final_url like 'https:%'
        and pages.final_status between 200 and 299 then 'redirects' else 'redirects-badly' end
    when pages.status >= 400 then 'missing'
    when pages.url like 'http:%' then 'http-only'
    when ${asked} or exists (select 1 from pages as plain where plain.sweep_id = pages.sweep_id
      and plain.url = 'http:' || substr(pages.url, 7) and plain.status between 200 and 299 and plain.redirect_to is null)
      then 'http-too'
    when exists (select 1 from mentions where mentions.sweep_id = pages.sweep_id and mentions.page_id = pages.id
      and mentions.kind is not null)
      or exists (select 1 from captures join findings on findings.capture_id = captures.id
        where captures.sweep_id = pages.sweep_id and captures.page = pages.url and findings.concern = 'mixed')
      then 'insecure-content'
    else 'clean' end`;
}

const none = (): Record<CoverageState, number> =>
  Object.fromEntries(COVERAGE.map((c) => [c.id, 0])) as Record<CoverageState, number>;

/** States of all addresses of a sweep; the groups with most addresses first. */
export async function coverageOf(
  store: Store,
  sweepId: number,
  by: 'folder' | 'template',
  httpToo: readonly string[],
): Promise<Coverage> {
  const rows = await store
    .selectFrom('pages')
    .leftJoin('templates', (j) =>
      j.onRef('templates.sweep_id', '=', 'pages.sweep_id').onRef('templates.template', '=', 'pages.template'),
    )
    .where('pages.sweep_id', '=', sweepId)
    .select((e) => [
      by === 'folder' ? 'pages.folder as key' : sql<string>`coalesce(pages.template, '')`.as('key'),
      by === 'folder' ? 'pages.folder as name' : sql<string>`coalesce(templates.name, 'no template')`.as('name'),
      stateOf(httpToo).as('is'),
      e.fn.countAll<number>().as('count'),
    ])
    .groupBy(['key', 'is'])
    .execute();
  const counts = none();
  const groups = new Map<string, { key: string; name: string; counts: Record<CoverageState, number> }>();
  for (const r of rows) {
    counts[r.is] += r.count;
    const group = groups.get(r.key) ?? { key: r.key, name: r.name, counts: none() };
    group.counts[r.is] += r.count;
    groups.set(r.key, group);
  }
  const size = (g: { counts: CoverageCounts }) => Object.values(g.counts).reduce((a, b) => a + b, 0);
  return {
    total: size({ counts }),
    counts,
    groups: [...groups.values()].sort((a, b) => size(b) - size(a) || (a.name < b.name ? -1 : 1)),
  };
}

/** Addresses in one state, in one folder or template if that is asked for. */
export async function coveredAddresses(
  store: Store,
  sweepId: number,
  filter: { readonly state?: CoverageState; readonly folder?: string; readonly template?: string },
  httpToo: readonly string[],
  window: { readonly offset: number; readonly limit: number },
): Promise<{ total: number; rows: CoveredAddress[] }> {
  let base = store.selectFrom('pages').where('sweep_id', '=', sweepId);
  if (filter.folder !== undefined) base = base.where('folder', '=', filter.folder);
  if (filter.template !== undefined) base = base.where(sql<boolean>`coalesce(pages.template, '') = ${filter.template}`);
  if (filter.state !== undefined) base = base.where(sql<boolean>`${stateOf(httpToo)} = ${filter.state}`);
  const { total } = await base.select((e) => e.fn.countAll<number>().as('total')).executeTakeFirstOrThrow();
  const rows = await base
    .select(['id as pageId', 'url', 'status', 'redirect_to as to', stateOf(httpToo).as('state')])
    .orderBy('url')
    .offset(window.offset)
    .limit(window.limit)
    .execute();
  return { total, rows };
}
