import { sql, type ExpressionBuilder } from 'kysely';
import {
  ANSWER_BANDS,
  PAGE_FLAGS,
  type PageFilter,
  type PageFlag,
  type PageGrouping,
} from '../../core/site/pageFilter';
import { chosen, FLAGS } from './pageList';
import type { Tables } from './schema';
import type { Store } from './store';

/** Pages with one value of a fact. */
export interface Slice {
  /** The value, as a filter takes it. */
  readonly value: string;
  readonly pages: number;
}

/** Figures of the pages of one group: one value of a fact. */
export interface PageGroup extends Slice {
  readonly name: string;
  readonly answerMs: number | null;
  readonly decodedBytes: number | null;
  readonly linksIn: number;
  readonly mentions: number;
  readonly errors: number;
  readonly captures: number;
}

/** How the pages of a sweep are spread; each spread leaves its own part of the filter aside. */
export interface PageSummary {
  readonly total: number;
  readonly bytes: number;
  readonly states: readonly Slice[];
  readonly statuses: readonly Slice[];
  readonly depths: readonly Slice[];
  readonly answers: readonly Slice[];
  readonly flags: readonly Slice[];
  readonly folders: readonly PageGroup[];
  readonly templates: readonly PageGroup[];
  /** By another fact, where that was asked for. */
  readonly grouped?: readonly PageGroup[];
}

/** Groups that are listed at most. */
const MAX_GROUPS = 500;

/** @param by a fact to group by, beside folders and templates */
export async function summarisePages(
  store: Store,
  sweepId: number,
  filter: PageFilter,
  by?: PageGrouping,
): Promise<PageSummary> {
  const all = await store
    .selectFrom('pages')
    .select((e) => [e.fn.countAll<number>().as('total'), e.fn.sum<number | null>('transfer_bytes').as('bytes')])
    .where(chosen(sweepId, filter))
    .executeTakeFirstOrThrow();
  const band = sql<string>`case ${sql.join(
    ANSWER_BANDS.slice(0, -1).map((b) => sql`when answer_ms < ${b.to} then ${b.name}`),
    sql` `,
  )} else ${ANSWER_BANDS.at(-1)?.name ?? ''} end`;
  const spread = async (part: keyof PageFilter, value: ReturnType<typeof sql<string>>) => {
    const rows = await store
      .selectFrom('pages')
      .select((e) => [value.as('value'), e.fn.countAll<number>().as('pages')])
      .where(chosen(sweepId, filter, part))
      .$if(part === 'answer', (q) => q.where('answer_ms', 'is not', null))
      .groupBy('value')
      .orderBy('value')
      .execute();
    return rows as Slice[];
  };
  const answers = await spread('answer', band);
  const depths = await spread('depth', sql<string>`coalesce(cast(depth as text), 'none')`);
  return {
    total: all.total,
    bytes: all.bytes ?? 0,
    states: await spread('state', sql<string>`state`),
    statuses: await spread('status', sql<string>`coalesce(cast(status as text), 'none')`),
    depths: [...depths].sort((a, b) => orderOf(a.value) - orderOf(b.value)),
    answers: ANSWER_BANDS.map((b) => ({ value: b.name, pages: answers.find((a) => a.value === b.name)?.pages ?? 0 })),
    flags: await countFlags(store, sweepId, filter),
    folders: await groups(store, sweepId, filter, 'folder'),
    templates: await groups(store, sweepId, filter, 'template'),
    ...(by && by !== 'folder' && by !== 'template' && { grouped: await groups(store, sweepId, filter, by) }),
  };
}

const orderOf = (depth: string) => (depth === 'none' ? Infinity : Number(depth));

/** Pages with each flag among those that the whole filter chooses. */
async function countFlags(store: Store, sweepId: number, filter: PageFilter): Promise<Slice[]> {
  const names = Object.keys(PAGE_FLAGS) as PageFlag[];
  const row = await store
    .selectFrom('pages')
    .select((e) => names.map((n) => sql<number>`coalesce(sum(${FLAGS[n](e)}), 0)`.as(n)))
    .where(chosen(sweepId, filter))
    .executeTakeFirstOrThrow();
  return names.map((value) => ({ value, pages: Number((row as Record<string, number>)[value] ?? 0) }));
}

async function groups(store: Store, sweepId: number, filter: PageFilter, by: PageGrouping): Promise<PageGroup[]> {
  // What has no value is a group of its own, save in folders and templates, of which redirects and errors have none.
  const own = by === 'folder' || by === 'template';
  const none = by === 'status' || by === 'depth' ? 'none' : '';
  const value = own
    ? sql<string>`pages.${sql.ref(by)}`
    : sql<string>`coalesce(cast(pages.${sql.ref(by)} as text), ${none})`;
  const rows = await store
    .selectFrom('pages')
    .leftJoin('templates', (j) =>
      j.onRef('templates.sweep_id', '=', 'pages.sweep_id').onRef('templates.template', '=', 'pages.template'),
    )
    .leftJoin(
      (e) =>
        e
          .selectFrom('captures')
          .select((c) => ['page', c.fn.count<number>('id').distinct().as('captures')])
          .where('sweep_id', '=', sweepId)
          .groupBy('page')
          .as('recorded'),
      (j) => j.onRef('recorded.page', '=', 'pages.url'),
    )
    .select((e) => [
      value.as('value'),
      (by === 'template' ? sql<string | null>`templates.name` : value).as('name'),
      e.fn.countAll<number>().as('pages'),
      e.fn.avg<number | null>('pages.answer_ms').as('answerMs'),
      e.fn.avg<number | null>('pages.decoded_bytes').as('decodedBytes'),
      sql<number>`coalesce(sum(pages.links_in), 0)`.as('linksIn'),
      sql<number>`coalesce(sum(pages.mentions), 0)`.as('mentions'),
      sql<number>`coalesce(sum(pages.status >= 400 or pages.state = 'failed'), 0)`.as('errors'),
      sql<number>`coalesce(sum(recorded.captures), 0)`.as('captures'),
    ])
    .where((e) => qualified(e as never, sweepId, filter, by))
    .$if(own, (q) => q.where(`pages.${by}`, 'is not', null))
    .groupBy('value')
    .orderBy('pages', 'desc')
    .orderBy('name')
    .limit(MAX_GROUPS)
    .execute();
  return rows.map((r) => ({ ...r, value: r.value ?? '', name: r.name ?? r.value ?? '' }));
}

/** The filter as a test of ids: in a join its column names would be ambiguous. */
function qualified(e: never, sweepId: number, filter: PageFilter, by: PageGrouping) {
  const builder = e as unknown as ExpressionBuilder<Tables, 'pages'>;
  return builder(
    'pages.id',
    'in',
    builder
      .selectFrom('pages')
      .select('pages.id')
      .where(chosen(sweepId, filter, by)),
  );
}
