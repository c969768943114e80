import { hostOf } from '../../core/capture/url';
import { sameSite } from '../../core/capture/site';
import type { Limits } from '../../core/checks/finding';
import type { ReportLook } from '../../core/handover/report/extras';
import { defaultSettings, type SweepSettings } from '../../core/site/settings';
import { removeUnusedBodies } from './retention';
import type { Store } from './store';
import { sealerOf } from './sealed';

/** A site as listed. */
export interface SiteRow {
  readonly id: number;
  readonly name: string;
  readonly home: string;
  /** What several sites are put together under; empty for none. */
  readonly group: string;
  readonly createdAt: string;
}

const columns = ['id', 'name', 'home', 'group_name as group', 'created_at as createdAt'] as const;

/** All sites by name. */
export function listSites(store: Store): Promise<SiteRow[]> {
  return store.selectFrom('sites').select(columns).orderBy('name').execute();
}

export function findSite(store: Store, id: number): Promise<SiteRow | undefined> {
  return store.selectFrom('sites').select(columns).where('id', '=', id).executeTakeFirst();
}

export async function addSite(store: Store, name: string, home: string): Promise<SiteRow> {
  const createdAt = new Date().toISOString();
  const row = await store
    .insertInto('sites')
    .values({ name, home, created_at: createdAt })
    .returning('id')
    .executeTakeFirstOrThrow();
  return { id: row.id, name, home, group: '', createdAt };
}

/** The site that a page belongs to, if there is one. */
export async function knownSiteOf(store: Store, page: string): Promise<SiteRow | undefined> {
  const host = hostOf(page);
  return (await listSites(store)).find((s) => sameSite(hostOf(s.home), host));
}

/** The site that a page belongs to, made when there is none yet. */
export async function siteOfPage(store: Store, page: string): Promise<SiteRow> {
  const known = await knownSiteOf(store, page);
  if (known) return known;
  const host = hostOf(page);
  const name = host.replace(/^www\./, '');
  return addSite(store, name, new URL('/', page).href);
}

/**
 * How this site is swept: what was set last, else the defaults for its home address. Kept encrypted: it holds headers,
 * a password, addresses of a list.
 */
export async function siteSettings(store: Store, site: SiteRow): Promise<SweepSettings> {
  const row = await store.selectFrom('sites').select('settings').where('id', '=', site.id).executeTakeFirst();
  const stored = row?.settings
    ? (JSON.parse((await sealerOf(store)).open(row.settings)) as Partial<SweepSettings>)
    : {};
  const usual = defaultSettings(site.home);
  return {
    ...usual,
    ...stored,
    captures: { ...usual.captures, ...stored.captures },
    entrances: { ...usual.entrances, ...stored.entrances },
  };
}

export async function saveSiteSettings(store: Store, id: number, settings: SweepSettings): Promise<void> {
  await store
    .updateTable('sites')
    .set({ settings: (await sealerOf(store)).seal(JSON.stringify(settings)) })
    .where('id', '=', id)
    .execute();
}

/** Limits of checks that this site has set for itself. */
export async function siteLimits(store: Store, id: number): Promise<Limits> {
  const row = await store.selectFrom('sites').select('limits').where('id', '=', id).executeTakeFirst();
  return row?.limits ? (JSON.parse(row.limits) as Limits) : {};
}

export async function saveSiteLimits(store: Store, id: number, limits: Limits): Promise<void> {
  await store
    .updateTable('sites')
    .set({ limits: JSON.stringify(limits) })
    .where('id', '=', id)
    .execute();
}

/** Changes what is stated of a site. */
export async function changeSite(
  store: Store,
  id: number,
  { name, group }: { readonly name?: string; readonly group?: string },
): Promise<void> {
  const values = { ...(name !== undefined && { name }), ...(group !== undefined && { group_name: group }) };
  if (Object.keys(values).length > 0) await store.updateTable('sites').set(values).where('id', '=', id).execute();
}

/** How the reports of a site look; undefined until that is set. */
export async function siteLook(store: Store, id: number): Promise<ReportLook | undefined> {
  const row = await store.selectFrom('sites').select('report_look').where('id', '=', id).executeTakeFirst();
  return row?.report_look ? (JSON.parse(row.report_look) as ReportLook) : undefined;
}

export async function saveSiteLook(store: Store, id: number, look: ReportLook): Promise<void> {
  await store
    .updateTable('sites')
    .set({ report_look: JSON.stringify(look) })
    .where('id', '=', id)
    .execute();
}

/** Deletes a site with all that belongs to it; bodies that nothing else uses go too. */
export async function deleteSite(store: Store, id: number): Promise<boolean> {
  return store.transaction().execute(async (tx) => {
    const result = await tx.deleteFrom('sites').where('id', '=', id).executeTakeFirst();
    await removeUnusedBodies(tx);
    return result.numDeletedRows > 0n;
  });
}
