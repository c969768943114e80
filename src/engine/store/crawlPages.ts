import { sql } from 'kysely';
import type { HttpMention, LinkFact } from '../../core/site/pageFacts';
import type { PageOrigin, PageState } from './crawlSchema';
import type { Store } from './store';

/** An address that became known. */
export interface NewPage {
  /** Without secrets. */
  readonly url: string;
  /** The whole address, encrypted, where it differs. */
  readonly sealed?: string;
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

/** Every known address of a sweep with its id: what a crawl that goes on has to know. */
export async function knownPages(
  store: Store,
  sweepId: number,
): Promise<{ id: number; url: string; sealed: string | null; state: PageState; level: number }[]> {
  return store
    .selectFrom('pages')
    .select(['id', 'url', 'sealed', 'state', 'level'])
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
  /** Bodies as transferred. */
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
