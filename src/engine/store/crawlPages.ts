import { sql } from 'kysely';
import type { HttpMention, LinkFact } from '../../core/site/pageFacts';
import { rowsAsJson } from './rowsAsJson';
import type { PageOrigin, PageState } from './schema';
import type { Store } from './store';

/** An address that became known. */
export interface NewPage {
  readonly url: string;
  readonly origin: PageOrigin;
  readonly level: number;
  readonly folder: string;
  readonly inSitemap?: string;
}

/** Facts of an answer that are shown but not filtered by. */
export interface PageDetails {
  /** Cache and security headers, names in lower case. */
  readonly headers: Readonly<Record<string, string>>;
  readonly hreflang: readonly { readonly language: string; readonly url: string }[];
  readonly charset?: string;
  readonly notes: readonly string[];
}

/** A link of a visited page: to a page of the sweep, or to an address elsewhere. */
export interface VisitLink extends LinkFact {
  readonly url: string;
  /** True when the target is a page of the sweep. */
  readonly inside: boolean;
}

/** What a visit to one page brought. */
export interface Visit {
  readonly id: number;
  readonly state: Extract<PageState, 'done' | 'failed' | 'skipped'>;
  readonly why?: string;
  readonly status?: number;
  readonly type?: string;
  readonly transferBytes?: number;
  readonly decodedBytes?: number;
  readonly encoding?: string;
  readonly protocol?: string;
  readonly answerMs?: number;
  readonly totalMs?: number;
  readonly fetchedAt: string;
  readonly redirectTo?: string;
  readonly redirectKind?: 'http' | 'meta';
  /** Where a redirect to another site leads on to, Hop[] as JSON. */
  readonly outside?: string;
  readonly title?: string;
  readonly language?: string;
  readonly canonical?: string;
  readonly robots?: string;
  readonly base?: string;
  readonly elements?: number;
  readonly fingerprint?: string;
  readonly features?: readonly string[];
  readonly textHash?: string;
  readonly bodyHash?: string;
  readonly details?: PageDetails;
  readonly links: readonly VisitLink[];
  readonly mentions: readonly (HttpMention & { readonly own: boolean })[];
}

/** Something that was cut off or waited out. */
export interface SweepNote {
  readonly kind: string;
  /** What it is about: a host, a path. One row for each. */
  readonly about: string;
  readonly count: number;
  readonly example: string;
  readonly source?: string;
  /** In words. */
  readonly what: string;
}

/** A page that waits for its visit. */
export interface WaitingPage {
  readonly id: number;
  readonly url: string;
  readonly level: number;
}

/** Adds addresses that are not known yet; returns the ids of those that were new. */
export async function addPages(store: Store, sweepId: number, pages: readonly NewPage[]): Promise<Map<string, number>> {
  if (pages.length === 0) return new Map();
  const rows = pages.map((p) => [sweepId, p.url, 'waiting', p.origin, p.level, p.folder, p.inSitemap]);
  const columns = ['sweep_id', 'url', 'state', 'origin', 'level', 'folder', 'in_sitemap'];
  const result = await sql<{ id: number; url: string }>`
    insert into pages (${sql.join(columns.map((c) => sql.ref(c)))}) ${rowsAsJson(rows, columns)}
    on conflict (sweep_id, url) do update set in_sitemap = coalesce(pages.in_sitemap, excluded.in_sitemap)
    returning id, url`.execute(store);
  return new Map(result.rows.map((r) => [r.url, r.id]));
}

/**
 * Stores visits with everything they brought, in one transaction: a crash leaves whole visits or none.
 * Returns the ids of pages that became known by it.
 */
export async function saveVisits(
  store: Store,
  sweepId: number,
  visits: readonly Visit[],
  found: readonly NewPage[],
  notes: readonly SweepNote[],
  idOf: (url: string) => number | undefined,
): Promise<Map<string, number>> {
  return store.transaction().execute(async (tx) => {
    const ids = await addPages(tx, sweepId, found);
    await updatePages(tx, visits);
    await addLinks(tx, sweepId, visits, (url) => ids.get(url) ?? idOf(url));
    await addMentions(tx, sweepId, visits);
    await addFingerprints(tx, sweepId, visits);
    await addNotes(tx, sweepId, notes);
    return ids;
  });
}

const VISIT_COLUMNS = [
  'state',
  'why',
  'status',
  'type',
  'transfer_bytes',
  'decoded_bytes',
  'encoding',
  'protocol',
  'answer_ms',
  'total_ms',
  'fetched_at',
  'redirect_to',
  'redirect_kind',
  'outside',
  'title',
  'language',
  'canonical',
  'robots',
  'base',
  'links_out',
  'mentions',
  'elements',
  'fingerprint',
  'text_hash',
  'body_hash',
  'details',
] as const;

async function updatePages(tx: Store, visits: readonly Visit[]): Promise<void> {
  const rows = visits.map((v) => [
    v.id,
    v.state,
    v.why,
    v.status,
    v.type,
    v.transferBytes,
    v.decodedBytes,
    v.encoding,
    v.protocol,
    v.answerMs,
    v.totalMs,
    v.fetchedAt,
    v.redirectTo,
    v.redirectKind,
    v.outside,
    v.title,
    v.language,
    v.canonical,
    v.robots,
    v.base,
    v.links.length,
    v.mentions.length,
    v.elements,
    v.fingerprint,
    v.textHash,
    v.bodyHash,
    v.details && JSON.stringify(v.details),
  ]);
  const sets = VISIT_COLUMNS.map((c) => sql`${sql.ref(c)} = v.${sql.ref(c)}`);
  await sql`update pages set ${sql.join(sets)} from (${rowsAsJson(rows, ['id', ...VISIT_COLUMNS])}) as v
    where pages.id = v.id`.execute(tx);
}

async function addLinks(
  tx: Store,
  sweepId: number,
  visits: readonly Visit[],
  idOf: (url: string) => number | undefined,
): Promise<void> {
  const rows = visits.flatMap((v) =>
    v.links.map((l) => {
      const to = l.inside ? idOf(l.url) : undefined;
      return [sweepId, v.id, to, to === undefined ? l.url : null, l.tag, l.attribute, l.line, l.column, l.rel, l.text];
    }),
  );
  if (rows.length === 0) return;
  const columns = ['sweep_id', 'from_id', 'to_id', 'url', 'tag', 'attribute', 'line', 'col', 'rel', 'text'];
  await sql`insert into links (${sql.join(columns.map((c) => sql.ref(c)))}) ${rowsAsJson(rows, columns)}`.execute(tx);
}

async function addMentions(tx: Store, sweepId: number, visits: readonly Visit[]): Promise<void> {
  const rows = visits.flatMap((v) =>
    v.mentions.map((m) => [
      sweepId,
      v.id,
      m.url,
      m.own ? 1 : 0,
      m.tag,
      m.attribute,
      m.use,
      m.kind,
      m.line,
      m.column,
      m.source,
    ]),
  );
  if (rows.length === 0) return;
  const columns = ['sweep_id', 'page_id', 'url', 'own', 'tag', 'attribute', 'use', 'kind', 'line', 'col', 'source'];
  await sql`insert into mentions (${sql.join(columns.map((c) => sql.ref(c)))}) ${rowsAsJson(rows, columns)}`.execute(
    tx,
  );
}

async function addFingerprints(tx: Store, sweepId: number, visits: readonly Visit[]): Promise<void> {
  const distinct = new Map(visits.flatMap((v) => (v.fingerprint && v.features ? [[v.fingerprint, v.features]] : [])));
  if (distinct.size === 0) return;
  await tx
    .insertInto('fingerprints')
    .values(
      [...distinct].map(([fingerprint, features]) => ({
        sweep_id: sweepId,
        fingerprint,
        features: features.join(' '),
      })),
    )
    .onConflict((c) => c.doNothing())
    .execute();
}

/** Adds notes; counts of the same kind and subject are added up. */
export async function addNotes(tx: Store, sweepId: number, notes: readonly SweepNote[]): Promise<void> {
  for (const n of notes) {
    await tx
      .insertInto('sweep_notes')
      .values({
        sweep_id: sweepId,
        kind: n.kind,
        about: n.about,
        count: n.count,
        example: n.example,
        source: n.source ?? null,
        what: n.what,
      })
      .onConflict((c) =>
        c.columns(['sweep_id', 'kind', 'about']).doUpdateSet({ count: sql`sweep_notes.count + ${n.count}` }),
      )
      .execute();
  }
}

/** Every known address of a sweep with its id: what a crawl that goes on has to know. */
export async function knownPages(
  store: Store,
  sweepId: number,
): Promise<{ id: number; url: string; state: PageState; level: number }[]> {
  return store
    .selectFrom('pages')
    .select(['id', 'url', 'state', 'level'])
    .where('sweep_id', '=', sweepId)
    .orderBy('id')
    .execute();
}

const SKIPPED = {
  cancelled: 'The sweep was cancelled before this page came up.',
  deeper: 'It lies deeper than the sweep goes.',
  beyond: 'The sweep had reached its number of pages.',
} as const;

/** Pages left waiting become skipped for a reason; `deeper` takes only those below a level. */
export async function skipWaiting(
  store: Store,
  sweepId: number,
  why: keyof typeof SKIPPED,
  limit?: number,
): Promise<void> {
  let query = store
    .updateTable('pages')
    .set({
      state: 'skipped',
      why: SKIPPED[why] + (why !== 'cancelled' && limit !== undefined ? ` (${limit.toLocaleString('en-GB')})` : ''),
    })
    .where('sweep_id', '=', sweepId)
    .where('state', '=', 'waiting');
  if (why === 'deeper' && limit !== undefined) query = query.where('level', '>', limit);
  await query.execute();
}

/** What a sweep has brought so far. */
export interface SweepCounts {
  readonly known: number;
  readonly waiting: number;
  readonly done: number;
  readonly failed: number;
  readonly skipped: number;
  readonly redirects: number;
  /** Answered with status 400 or above. */
  readonly missing: number;
  readonly mentions: number;
  /** Bodies as they travelled. */
  readonly bytes: number;
  /** Why one of the pages failed, or was left out. */
  readonly why: string | null;
}

export async function countPages(store: Store, sweepId: number): Promise<SweepCounts> {
  const state = (name: PageState) => sql<number>`coalesce(sum(state = ${name}), 0)`.as(name);
  return store
    .selectFrom('pages')
    .select((e) => [
      e.fn.countAll<number>().as('known'),
      state('waiting'),
      state('done'),
      state('failed'),
      state('skipped'),
      sql<number>`coalesce(sum(redirect_to is not null), 0)`.as('redirects'),
      sql<number>`coalesce(sum(status >= 400), 0)`.as('missing'),
      sql<number>`coalesce(sum(mentions), 0)`.as('mentions'),
      sql<number>`coalesce(sum(transfer_bytes), 0)`.as('bytes'),
      sql<string | null>`coalesce(min(why) filter (where state = 'failed'), min(why))`.as('why'),
    ])
    .where('sweep_id', '=', sweepId)
    .$castTo<SweepCounts>()
    .executeTakeFirstOrThrow();
}

/** Failed pages, and those that a limit or a cancel left out, wait for a visit again. */
export async function retryFailed(store: Store, sweepId: number): Promise<number> {
  const again = await store
    .updateTable('pages')
    .set({ state: 'waiting', why: null })
    .where('sweep_id', '=', sweepId)
    .where((e) =>
      e.or([e('state', '=', 'failed'), e.and([e('state', '=', 'skipped'), e('why', '=', SKIPPED.cancelled)])]),
    )
    .executeTakeFirst();
  return Number(again.numUpdatedRows);
}
