import { sql } from 'kysely';
import { FATES, type Fate, type FateReport, type FateRow } from '../../core/site/fates';
import type { ListedAddress, ListKind, OutsideList } from '../../core/site/lists/outsideList';
import { withoutSecrets } from '../../core/site/lists/withoutSecrets';
import { pageName } from '../../core/site/searchPeriods';
import { writeMany } from './manyRows';
import type { Store } from './store';

/** A list as listed. */
export interface ListSummary {
  readonly id: number;
  readonly name: string;
  readonly kind: ListKind;
  readonly columns: readonly string[];
  readonly roles: OutsideList['roles'];
  readonly unread: OutsideList['unread'];
  readonly fromDay: string | null;
  readonly toDay: string | null;
  readonly addedAt: string;
  readonly askedAt: string | null;
  readonly rows: number;
  readonly clicks: number | null;
  /** Addresses by fate, in the order of what needs work; empty before they were asked for. */
  readonly groups: readonly { readonly fate: Fate; readonly count: number }[];
}

/** Keeps a list with its rows, without what is secret in their addresses. */
export async function addList(store: Store, siteId: number, name: string, given: OutsideList): Promise<number> {
  const list = withoutSecrets(given);
  const days = list.rows.flatMap((r) => r.date ?? []).sort();
  const id = await writeMany(store, (writer) => {
    const [row] = writer.read<{ id: number }>(
      `insert into lists (site_id, name, kind, columns, roles, unread, from_day, to_day, added_at)
       values (?, ?, ?, ?, ?, ?, ?, ?, ?) returning id`,
      [
        [
          siteId,
          name,
          list.kind,
          JSON.stringify(list.columns),
          JSON.stringify(list.roles),
          JSON.stringify(list.unread),
          days[0],
          days.at(-1),
          new Date().toISOString(),
        ],
      ],
    );
    const id = row?.id ?? 0;
    writer.write(
      `insert into list_rows (list_id, address, clicks, impressions, position, date, title, state, source)
       values (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
      rowsOf(id, list.rows),
    );
    return id;
  });
  if (list.kind === 'search performance') await applyClicks(store, siteId);
  return id;
}

function* rowsOf(id: number, rows: readonly ListedAddress[]) {
  for (const r of rows) yield [id, r.address, r.clicks, r.impressions, r.position, r.date, r.title, r.state, r.source];
}

const columns = [
  'id',
  'name',
  'kind',
  'columns',
  'roles',
  'unread',
  'from_day as fromDay',
  'to_day as toDay',
  'added_at as addedAt',
  'asked_at as askedAt',
] as const;

/** The lists of a site, the latest first. */
export async function listLists(store: Store, siteId: number): Promise<ListSummary[]> {
  const lists = await store
    .selectFrom('lists')
    .select(columns)
    .where('site_id', '=', siteId)
    .orderBy('id', 'desc')
    .execute();
  const ids = lists.map((l) => l.id);
  if (ids.length === 0) return [];
  const sums = await store
    .selectFrom('list_rows')
    .where('list_id', 'in', ids)
    .select((e) => ['list_id', e.fn.countAll<number>().as('rows'), e.fn.sum<number | null>('clicks').as('clicks')])
    .groupBy('list_id')
    .execute();
  const fates = await store
    .selectFrom('list_fates')
    .where('list_id', 'in', ids)
    .select((e) => ['list_id', 'fate', e.fn.countAll<number>().as('count')])
    .groupBy(['list_id', 'fate'])
    .orderBy('place')
    .execute();
  return lists.map((l) => {
    const sum = sums.find((s) => s.list_id === l.id);
    return {
      ...l,
      kind: l.kind as ListKind,
      columns: JSON.parse(l.columns) as string[],
      roles: JSON.parse(l.roles) as OutsideList['roles'],
      unread: JSON.parse(l.unread) as OutsideList['unread'],
      rows: sum?.rows ?? 0,
      clicks: sum?.clicks ?? null,
      groups: fates.flatMap((f) => (f.list_id === l.id ? [{ fate: f.fate as Fate, count: f.count }] : [])),
    };
  });
}

export async function findList(store: Store, siteId: number, id: number): Promise<ListSummary | undefined> {
  return (await listLists(store, siteId)).find((l) => l.id === id);
}

/** All rows of a list. */
export async function listRows(store: Store, listId: number): Promise<ListedAddress[]> {
  const rows = await store.selectFrom('list_rows').selectAll().where('list_id', '=', listId).execute();
  return rows.map((r) => ({
    address: r.address,
    clicks: r.clicks ?? undefined,
    impressions: r.impressions ?? undefined,
    position: r.position ?? undefined,
    date: r.date ?? undefined,
    title: r.title ?? undefined,
    state: r.state ?? undefined,
    source: r.source ?? undefined,
  }));
}

export async function deleteList(store: Store, siteId: number, id: number): Promise<boolean> {
  const counted = (await clicksList(store, siteId))?.id === id;
  const result = await store.deleteFrom('lists').where('site_id', '=', siteId).where('id', '=', id).executeTakeFirst();
  if (counted) await applyClicks(store, siteId);
  return result.numDeletedRows > 0n;
}

/** Replaces the fates of a list. */
export async function saveFates(
  store: Store,
  listId: number,
  report: FateReport,
  askedAt = new Date().toISOString(),
): Promise<void> {
  await writeMany(store, (writer) => {
    writer.write('delete from list_fates where list_id = ?', [[listId]]);
    writer.write(
      `insert into list_fates (list_id, address, fate, place, says, hops, end_url, end_status, nearest, nearest_why,
       clicks, impressions, position, title, state, rows) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
      fatesRows(listId, report.rows),
    );
    writer.write('update lists set asked_at = ? where id = ?', [[askedAt, listId]]);
  });
}

function* fatesRows(listId: number, rows: readonly FateRow[]) {
  for (const r of rows)
    yield [
      listId,
      r.address,
      r.fate,
      FATES.indexOf(r.fate),
      r.says,
      JSON.stringify(r.hops),
      r.end?.url,
      r.end?.status,
      r.nearest?.url,
      r.nearest?.why,
      r.clicks,
      r.impressions,
      r.position,
      r.title,
      r.state,
      r.rows,
    ];
}

/** How fates of a list are listed. */
export interface FateFilter {
  readonly fate?: Fate;
  readonly search?: string;
  readonly sort: 'work' | 'clicks' | 'address';
}

/** A window of the fates of a list. */
export async function listFates(
  store: Store,
  listId: number,
  filter: FateFilter,
  window: { readonly offset: number; readonly limit: number },
): Promise<{ total: number; rows: FateRow[] }> {
  let base = store.selectFrom('list_fates').where('list_id', '=', listId);
  if (filter.fate) base = base.where('fate', '=', filter.fate);
  if (filter.search) base = base.where(sql<boolean>`instr(lower(address), ${filter.search.toLowerCase()}) > 0`);
  const { total } = await base.select((e) => e.fn.countAll<number>().as('total')).executeTakeFirstOrThrow();
  const sorted =
    filter.sort === 'address'
      ? base.orderBy('address')
      : filter.sort === 'clicks'
        ? base.orderBy(sql`coalesce(clicks, -1)`, 'desc').orderBy('address')
        : base
            .orderBy('place')
            .orderBy(sql`coalesce(clicks, -1)`, 'desc')
            .orderBy('address');
  const rows = await sorted.selectAll().offset(window.offset).limit(window.limit).execute();
  return {
    total,
    rows: rows.map((r) => ({
      address: r.address,
      fate: r.fate as Fate,
      says: r.says,
      hops: JSON.parse(r.hops) as FateRow['hops'],
      end: r.end_url === null ? null : { url: r.end_url, status: r.end_status ?? 0 },
      nearest: r.nearest === null ? null : { url: r.nearest, why: r.nearest_why ?? '' },
      clicks: r.clicks ?? undefined,
      impressions: r.impressions ?? undefined,
      position: r.position ?? undefined,
      title: r.title ?? undefined,
      state: r.state ?? undefined,
      rows: r.rows,
    })),
  };
}

/** The list whose clicks say how many visits a page has: the latest search export; undefined without one. */
export async function clicksList(store: Store, siteId: number): Promise<{ id: number; name: string } | undefined> {
  return store
    .selectFrom('lists')
    .select(['id', 'name'])
    .where('site_id', '=', siteId)
    .where('kind', '=', 'search performance')
    .orderBy('id', 'desc')
    .limit(1)
    .executeTakeFirst();
}

/** Gives every page of a site's sweeps its clicks by the latest search export, or none where there is no export. */
export async function applyClicks(store: Store, siteId: number): Promise<void> {
  const list = await clicksList(store, siteId);
  const sweeps = store.selectFrom('sweeps').select('id').where('site_id', '=', siteId);
  const rows = list
    ? await store
        .selectFrom('list_rows')
        .where('list_id', '=', list.id)
        .select((e) => ['address', e.fn.sum<number | null>('clicks').as('clicks')])
        .groupBy('address')
        .execute()
    : [];
  const clicks = new Map<string, number>();
  for (const r of rows) clicks.set(pageName(r.address), (clicks.get(pageName(r.address)) ?? 0) + (r.clicks ?? 0));
  const pages = list
    ? await store.selectFrom('pages').select(['id', 'url']).where('sweep_id', 'in', sweeps).execute()
    : [];
  await store
    .updateTable('pages')
    .set({ clicks: list ? 0 : null })
    .where('sweep_id', 'in', sweeps)
    .execute();
  await writeMany(store, (writer) => {
    writer.write(
      'update pages set clicks = ? where id = ?',
      pages.flatMap((p) => {
        const own = clicks.get(pageName(p.url));
        return own === undefined ? [] : [[Math.round(own), p.id]];
      }),
    );
    // What was worked out with other visits is worth nothing now.
    writer.write('update sweeps set revision = revision + 1 where site_id = ?', [[siteId]]);
  });
}

/** The fate of each page of some lists, by its name without scheme and `www.`; earlier lists come first. */
export async function fatesOfPages(store: Store, listIds: readonly number[]): Promise<Map<string, Fate>> {
  const out = new Map<string, Fate>();
  for (const id of listIds) {
    const rows = await store.selectFrom('list_fates').select(['address', 'fate']).where('list_id', '=', id).execute();
    for (const r of rows) {
      const name = pageName(r.address);
      if (!out.has(name)) out.set(name, r.fate as Fate);
    }
  }
  return out;
}

/** Missing addresses of a list with the page that is nearest to each. */
export async function chosenNearest(
  store: Store,
  siteId: number,
  listId: number,
): Promise<{ from: string; to: string }[]> {
  const rows = await store
    .selectFrom('list_fates')
    .innerJoin('lists', 'lists.id', 'list_fates.list_id')
    .where('lists.site_id', '=', siteId)
    .where('list_id', '=', listId)
    .where('fate', 'in', ['missing', 'path lost'])
    .select(['address', 'nearest'])
    .execute();
  // An address that was listed with and without TLS or www is one rule.
  const out = new Map<string, { from: string; to: string }>();
  for (const r of rows) {
    const at = new URL(r.address);
    const from = at.pathname + at.search;
    if (!out.get(from)?.to) out.set(from, { from, to: r.nearest ?? '' });
  }
  return [...out.values()];
}
