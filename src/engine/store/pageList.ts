import { sql, type Expression, type ExpressionBuilder, type SqlBool } from 'kysely';
import { ANSWER_BANDS, readFact, type PageFact, type PageFilter, type PageFlag } from '../../core/site/pageFilter';
import type { PageState } from './crawlSchema';
import type { Tables } from './schema';
import type { Store } from './store';

/** A page of a sweep as listed: one row of the Pages table. */
export interface PageRow {
  readonly id: number;
  readonly url: string;
  readonly state: PageState;
  readonly why: string | null;
  readonly origin: string;
  readonly depth: number | null;
  readonly inSitemap: string | null;
  readonly folder: string;
  readonly status: number | null;
  readonly type: string | null;
  readonly transferBytes: number | null;
  readonly decodedBytes: number | null;
  readonly encoding: string | null;
  readonly protocol: string | null;
  readonly answerMs: number | null;
  readonly hopCount: number;
  readonly finalUrl: string | null;
  readonly finalStatus: number | null;
  readonly title: string | null;
  readonly language: string | null;
  readonly canonical: string | null;
  readonly robots: string | null;
  readonly linksIn: number | null;
  readonly linksOut: number | null;
  readonly linksMissing: number | null;
  readonly linksRedirected: number | null;
  readonly mentions: number | null;
  readonly elements: number | null;
  readonly template: string | null;
  readonly textHash: string | null;
}

const COLUMNS = {
  id: 'id',
  url: 'url',
  state: 'state',
  why: 'why',
  origin: 'origin',
  depth: 'depth',
  inSitemap: 'in_sitemap',
  folder: 'folder',
  status: 'status',
  type: 'type',
  transferBytes: 'transfer_bytes',
  decodedBytes: 'decoded_bytes',
  encoding: 'encoding',
  protocol: 'protocol',
  answerMs: 'answer_ms',
  hopCount: 'hop_count',
  finalUrl: 'final_url',
  finalStatus: 'final_status',
  title: 'title',
  language: 'language',
  canonical: 'canonical',
  robots: 'robots',
  linksIn: 'links_in',
  linksOut: 'links_out',
  linksMissing: 'links_missing',
  linksRedirected: 'links_redirected',
  mentions: 'mentions',
  elements: 'elements',
  template: 'template',
  textHash: 'text_hash',
} as const satisfies Record<keyof PageRow, keyof Tables['pages']>;

/** Columns that a list can be sorted by. */
export const SORTS = Object.keys(COLUMNS) as (keyof PageRow)[];

export const pageColumns = (Object.keys(COLUMNS) as (keyof PageRow)[]).map((k) => `${COLUMNS[k]} as ${k}` as const);

/** Pages of a sweep that a filter chooses, a window of them, and how many there are. */
export async function listPages(
  store: Store,
  sweepId: number,
  filter: PageFilter,
  window: {
    readonly sort: keyof PageRow;
    readonly descending: boolean;
    readonly offset: number;
    readonly limit: number;
  },
): Promise<{ total: number; rows: PageRow[] }> {
  const where = chosen(sweepId, filter);
  const total = await store
    .selectFrom('pages')
    .select((e) => e.fn.countAll<number>().as('n'))
    .where(where)
    .executeTakeFirstOrThrow();
  const column = COLUMNS[window.sort];
  const rows = await store
    .selectFrom('pages')
    .select(pageColumns)
    .where(where)
    // What has no value comes last, whichever way it is sorted.
    .orderBy(sql`${sql.ref(column)} is null`)
    .orderBy(column, window.descending ? 'desc' : 'asc')
    .orderBy('id')
    .offset(window.offset)
    .limit(window.limit)
    .execute();
  return { total: total.n, rows: rows as unknown as PageRow[] };
}

type Pages = ExpressionBuilder<Tables, 'pages'>;

/** The condition of a filter; `without` leaves one of its parts aside. */
export function chosen(sweepId: number, filter: PageFilter, without?: keyof PageFilter | PageFact) {
  return (e: Pages): Expression<SqlBool> => {
    const all: Expression<SqlBool>[] = [e('sweep_id', '=', sweepId)];
    const any = (
      list: readonly string[] | undefined,
      name: keyof PageFilter,
      one: (v: string) => Expression<SqlBool>,
    ) => {
      if (list?.length && name !== without) all.push(e.or(list.map(one)));
    };
    if (filter.words && without !== 'words') {
      const like = `%${filter.words.replace(/[\\%_]/g, '\\$&')}%`;
      all.push(sql<SqlBool>`(url like ${like} escape '\\' or title like ${like} escape '\\')`);
    }
    any(filter.state, 'state', (v) => e('state', '=', v as PageState));
    any(filter.status, 'status', (v) =>
      v === 'none'
        ? e('status', 'is', null)
        : v.endsWith('xx')
          ? e.and([e('status', '>=', Number(v[0]) * 100), e('status', '<', Number(v[0]) * 100 + 100)])
          : e('status', '=', Number(v)),
    );
    any(filter.depth, 'depth', (v) => (v === 'none' ? e('depth', 'is', null) : e('depth', '=', Number(v))));
    any(filter.answer, 'answer', (v) => {
      const band = ANSWER_BANDS.find((b) => b.name === v);
      if (!band) return e.lit(false);
      const from = e('answer_ms', '>=', band.from);
      return Number.isFinite(band.to) ? e.and([from, e('answer_ms', '<', band.to)]) : from;
    });
    any(filter.folder, 'folder', (v) => e('folder', '=', v));
    any(filter.template, 'template', (v) => e('template', '=', v));
    if (without !== 'fact') {
      // Values of one fact widen, different facts narrow down.
      const facts = (filter.fact ?? []).flatMap((f) => readFact(f) ?? []);
      for (const name of new Set(facts.map((f) => f.name)))
        if (name !== without)
          all.push(e.or(facts.filter((f) => f.name === name).map(({ value }) => hasFact(e, name, value))));
    }
    // Flags narrow down: a page has to have all of them.
    if (without !== 'flag') for (const flag of filter.flag ?? []) all.push(FLAGS[flag](e));
    return e.and(all);
  };
}

const hasFact = (e: Pages, name: PageFact, value: string) =>
  value === '' ? e.or([e(name, 'is', null), e(name, '=', '')]) : e(name, '=', value);

const isPage = (e: Pages) => e.and([e('state', '=', 'done'), e('status', '=', 200), e('redirect_to', 'is', null)]);

/** The conditions behind PAGE_FLAGS. */
export const FLAGS: Readonly<Record<PageFlag, (e: Pages) => Expression<SqlBool>>> = {
  orphan: (e) => e.and([isPage(e), e('links_in', '=', 0), e('origin', 'in', ['sitemap', 'list'])]),
  'dead-end': (e) => e.and([isPage(e), e('links_out', '=', 0), e('elements', '>', 0)]),
  redirect: (e) => e('redirect_to', 'is not', null),
  'links-missing': (e) => e('links_missing', '>', 0),
  'links-redirected': (e) => e('links_redirected', '>', 0),
  mentions: (e) =>
    e.exists(
      e
        .selectFrom('mentions')
        .select('mentions.page_id')
        .whereRef('mentions.page_id', '=', 'pages.id')
        .where('mentions.own', '=', 1),
    ),
  'plain-http': (e) => e.and([isPage(e), e('url', 'like', 'http://%')]),
  noindex: (e) => e('robots', 'like', '%noindex%'),
  'canonical-elsewhere': (e) => e.and([isPage(e), e('canonical', 'is not', null), e('canonical', '!=', e.ref('url'))]),
  'no-title': (e) => e.and([isPage(e), e('title', '=', '')]),
  uncompressed: (e) => e.and([isPage(e), e('encoding', 'is', null), e('decoded_bytes', '>', 1024)]),
  captured: (e) =>
    e.exists(
      e
        .selectFrom('captures')
        .select('captures.id')
        .whereRef('captures.sweep_id', '=', 'pages.sweep_id')
        .whereRef('captures.page', '=', 'pages.url'),
    ),
};
