import { sql } from 'kysely';
import type { Hop } from '../../core/site/hop';
import type { PageDetails } from './crawlPages';
import { pageColumns, type PageRow } from './pageList';
import type { Store } from './store';

/** A link with the page at its other end. */
export interface LinkRow {
  /** Page of the sweep at the other end; null for another site. */
  readonly pageId: number | null;
  readonly url: string;
  readonly title: string | null;
  readonly status: number | null;
  readonly finalUrl: string | null;
  readonly finalStatus: number | null;
  readonly hopCount: number | null;
  readonly tag: string;
  readonly attribute: string;
  readonly line: number;
  readonly column: number;
  readonly rel: string;
  readonly text: string;
}

/** A place that names a plain-http address. */
export interface MentionRow {
  readonly url: string;
  readonly own: boolean;
  readonly tag: string;
  readonly attribute: string;
  readonly use: string;
  readonly kind: string | null;
  readonly line: number;
  readonly column: number;
  readonly source: string;
}

/** A recording of a page, or of another page of its template. */
export interface PageCapture {
  readonly id: number;
  readonly page: string;
  readonly device: 'phone' | 'desktop';
  readonly recordedAt: string;
}

/** Everything that a sweep knows of one page. */
export interface PageView extends PageRow {
  readonly siteId: number;
  readonly sweepId: number;
  readonly base: string | null;
  readonly totalMs: number | null;
  readonly fetchedAt: string | null;
  readonly redirectTo: string | null;
  readonly redirectKind: string | null;
  readonly bodyHash: string | null;
  readonly templateName: string | null;
  readonly templatePages: number | null;
  readonly hops: readonly Hop[];
  readonly details?: PageDetails;
  readonly linksInTotal: number;
  readonly linksOutTotal: number;
  readonly inLinks: readonly LinkRow[];
  readonly outLinks: readonly LinkRow[];
  readonly mentionList: readonly MentionRow[];
  readonly captures: readonly PageCapture[];
  /** Captures of the template, for pages that have none of their own. */
  readonly likeCaptures: readonly PageCapture[];
}

/** Links that are given at most, each way. */
export const MAX_LINKS = 1000;

export async function getPage(store: Store, id: number): Promise<PageView | undefined> {
  const row = await store
    .selectFrom('pages')
    .innerJoin('sweeps', 'sweeps.id', 'pages.sweep_id')
    .leftJoin('templates', (j) =>
      j.onRef('templates.sweep_id', '=', 'pages.sweep_id').onRef('templates.template', '=', 'pages.template'),
    )
    .select(pageColumns.map((c) => `pages.${c}` as const))
    .select([
      'sweeps.site_id as siteId',
      'pages.sweep_id as sweepId',
      'pages.base',
      'pages.total_ms as totalMs',
      'pages.fetched_at as fetchedAt',
      'pages.redirect_to as redirectTo',
      'pages.redirect_kind as redirectKind',
      'pages.body_hash as bodyHash',
      'pages.hops',
      'pages.details',
      'templates.name as templateName',
      'templates.pages as templatePages',
    ])
    .where('pages.id', '=', id)
    .executeTakeFirst();
  if (!row) return undefined;
  const inward = await links(store, row.sweepId, 'to_id', 'from_id', id);
  const outward = await links(store, row.sweepId, 'from_id', 'to_id', id);
  const mentions = await store
    .selectFrom('mentions')
    .select(['url', 'own', 'tag', 'attribute', 'use', 'kind', 'line', 'col as column', 'source'])
    .where('page_id', '=', id)
    .orderBy('line')
    .orderBy('col')
    .execute();
  const known = row as unknown as PageRow & typeof row;
  return {
    ...known,
    hops: row.hops ? (JSON.parse(row.hops) as Hop[]) : [],
    details: row.details ? (JSON.parse(row.details) as PageDetails) : undefined,
    linksInTotal: inward.total,
    linksOutTotal: outward.total,
    inLinks: inward.rows,
    outLinks: outward.rows,
    mentionList: mentions.map((m) => ({ ...m, own: m.own === 1 })),
    captures: await captures(store, row.sweepId, sql`captures.page = ${known.finalUrl ?? known.url}`),
    likeCaptures:
      known.template === null
        ? []
        : await captures(
            store,
            row.sweepId,
            sql`captures.page in (select url from pages where sweep_id = ${row.sweepId} and template = ${known.template})`,
          ),
  };
}

async function links(
  store: Store,
  sweepId: number,
  near: 'from_id' | 'to_id',
  far: 'from_id' | 'to_id',
  id: number,
): Promise<{ total: number; rows: LinkRow[] }> {
  const total = await store
    .selectFrom('links')
    .select((e) => e.fn.countAll<number>().as('n'))
    .where('sweep_id', '=', sweepId)
    .where(near, '=', id)
    .executeTakeFirstOrThrow();
  const rows = await store
    .selectFrom('links')
    .leftJoin('pages', 'pages.id', `links.${far}`)
    .select((e) => [
      `links.${far} as pageId`,
      e.fn.coalesce('pages.url', 'links.url').as('url'),
      'pages.title',
      'pages.status',
      'pages.final_url as finalUrl',
      'pages.final_status as finalStatus',
      'pages.hop_count as hopCount',
      'links.tag',
      'links.attribute',
      'links.line',
      'links.col as column',
      'links.rel',
      'links.text',
    ])
    .where('links.sweep_id', '=', sweepId)
    .where(`links.${near}`, '=', id)
    .orderBy(near === 'from_id' ? 'links.line' : 'url')
    .orderBy('links.col')
    .limit(MAX_LINKS)
    .execute();
  return { total: total.n, rows: rows as LinkRow[] };
}

function captures(store: Store, sweepId: number, which: ReturnType<typeof sql>): Promise<PageCapture[]> {
  return store
    .selectFrom('captures')
    .select(['id', 'page', 'device', 'recorded_at as recordedAt'])
    .where('sweep_id', '=', sweepId)
    .where(sql<boolean>`${which}`)
    .orderBy('id', 'desc')
    .limit(20)
    .execute();
}
