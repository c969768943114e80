import { sql } from 'kysely';
import type { Store } from './store';
import { findSweep } from './sweeps';

/** One address that a sweep saw, with what is wrong with it. */
export interface HttpsFact {
  readonly pageId: number;
  readonly url: string;
  readonly status: number | null;
  readonly to: string | null;
  readonly hops: number;
}

/** One kind of fault of HTTPS coverage that page facts show. */
export interface HttpsFactGroup {
  readonly id: 'http-pages' | 'downgrades' | 'temporary' | 'chains';
  readonly title: string;
  readonly total: number;
  readonly rows: readonly HttpsFact[];
}

/** What a sweep saw of HTTPS coverage, recorded or not. */
export interface HttpsFacts {
  readonly groups: readonly HttpsFactGroup[];
  /** The sweep went on where a certificate was not valid: it says nothing about certificates. */
  readonly anyCertificate: boolean;
}

const SHOWN = 20;
const isHttp = sql<boolean>`pages.url like 'http://%'`;
const KINDS: readonly {
  readonly id: HttpsFactGroup['id'];
  readonly title: string;
  readonly test: ReturnType<typeof sql<boolean>>;
}[] = [
  {
    id: 'http-pages',
    title: 'Pages served over http without a redirect (200)',
    test: sql<boolean>`${isHttp} and pages.status = 200 and pages.redirect_to is null`,
  },
  {
    id: 'downgrades',
    title: 'Redirects from https to http',
    test: sql<boolean>`pages.url like 'https://%' and pages.redirect_to like 'http://%'`,
  },
  {
    id: 'temporary',
    title: 'Temporary redirects from http (302, 303, 307)',
    test: sql<boolean>`${isHttp} and pages.status in (302, 303, 307) and pages.redirect_to is not null`,
  },
  {
    id: 'chains',
    title: 'Redirect chains from http',
    test: sql<boolean>`${isHttp} and pages.hop_count > 1`,
  },
];

/** Every fault of HTTPS coverage that the pages of a sweep show; undefined for a sweep that is not there. */
export async function httpsFacts(store: Store, sweepId: number): Promise<HttpsFacts | undefined> {
  const sweep = await findSweep(store, sweepId);
  if (!sweep) return undefined;
  const groups: HttpsFactGroup[] = [];
  for (const { id, title, test } of KINDS) {
    const base = store.selectFrom('pages').where('sweep_id', '=', sweepId).where(test);
    const { total } = await base.select((e) => e.fn.countAll<number>().as('total')).executeTakeFirstOrThrow();
    if (total === 0) continue;
    const rows = await base
      .select(['id as pageId', 'url', 'status', 'redirect_to as to', 'hop_count as hops'])
      .orderBy('links_in', 'desc')
      .orderBy('url')
      .limit(SHOWN)
      .execute();
    groups.push({ id, title, total, rows });
  }
  return { groups, anyCertificate: sweep.settings?.acceptAnyCertificate ?? false };
}
