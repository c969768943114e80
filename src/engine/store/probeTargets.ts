import { sql } from 'kysely';
import { hostOf } from '../../core/capture/url';
import { sameSite } from '../../core/capture/site';
import type { PlainFile } from '../probe/httpsVersions';
import type { Store } from './store';

/** Hosts of the site's own domain that a sweep has seen: pages, links, http references, loads of captures. */
export async function ownHosts(store: Store, sweepId: number, home: string): Promise<string[]> {
  const place = (column: string) =>
    // The host between the slashes: everything before the next slash, question mark or end.
    sql<string>`distinct substr(${sql.ref(column)}, 1, instr(substr(${sql.ref(column)}, 9) || '/', '/') + 8)`;
  const [pages, links, mentions, loads] = await Promise.all([
    store.selectFrom('pages').where('sweep_id', '=', sweepId).select(place('url').as('at')).execute(),
    store
      .selectFrom('links')
      .where('sweep_id', '=', sweepId)
      .where('url', 'is not', null)
      .select(place('url').as('at'))
      .execute(),
    store.selectFrom('mentions').where('sweep_id', '=', sweepId).select(place('url').as('at')).execute(),
    store
      .selectFrom('findings')
      .innerJoin('captures', 'captures.id', 'findings.capture_id')
      .where('captures.sweep_id', '=', sweepId)
      .select(sql<string>`distinct 'https://' || findings.host`.as('at'))
      .execute(),
  ]);
  const own = hostOf(home);
  const hosts = [...pages, ...links, ...mentions, ...loads].map((r) => hostOf(r.at));
  return [...new Set(hosts)].filter((h) => h !== '' && sameSite(h, own)).sort();
}

/** The most linked secure pages of each template. */
export async function samplePages(store: Store, sweepId: number, perTemplate: number): Promise<string[]> {
  if (perTemplate === 0) return [];
  const ranked = store
    .selectFrom('pages')
    .where('sweep_id', '=', sweepId)
    .where('status', '=', 200)
    .where('redirect_to', 'is', null)
    .where('template', 'is not', null)
    .where('url', 'like', 'https:%')
    .select(['url', sql<number>`row_number() over (partition by template order by links_in desc, url)`.as('place')]);
  const rows = await store
    .selectFrom(ranked.as('ranked'))
    .select('url')
    .where('place', '<=', perTemplate)
    .orderBy('url')
    .execute();
  return rows.map((r) => r.url);
}

/** Files that pages of a sweep fetch by http, the most used first. */
export async function plainFiles(store: Store, sweepId: number, most: number): Promise<PlainFile[]> {
  const rows = await store
    .selectFrom('mentions')
    .where('sweep_id', '=', sweepId)
    .where('kind', 'is not', null)
    .where('use', '=', 'load')
    .select((e) => ['url', 'own', sql<number>`count(distinct page_id)`.as('pages'), e.fn.countAll<number>().as('n')])
    .groupBy('url')
    .orderBy('n', 'desc')
    .orderBy('url')
    .limit(most)
    .execute();
  return rows.map((r) => ({ url: r.url, own: r.own === 1, pages: r.pages }));
}

/** Pages of other sites that are linked by http, the most linked first. */
export async function linkedOutside(
  store: Store,
  sweepId: number,
  most: number,
): Promise<{ url: string; links: number }[]> {
  return store
    .selectFrom('mentions')
    .where('sweep_id', '=', sweepId)
    .where('use', '=', 'link')
    .where('own', '=', 0)
    .select((e) => ['url', e.fn.countAll<number>().as('links')])
    .groupBy('url')
    .orderBy('links', 'desc')
    .orderBy('url')
    .limit(most)
    .execute();
}

/** How many links lead to http pages of other sites. */
export async function harmlessLinks(store: Store, sweepId: number): Promise<number> {
  const { n } = await store
    .selectFrom('mentions')
    .where('sweep_id', '=', sweepId)
    .where('use', '=', 'link')
    .where('own', '=', 0)
    .select((e) => e.fn.countAll<number>().as('n'))
    .executeTakeFirstOrThrow();
  return n;
}
