import { gunzipSync, gzipSync } from 'node:zlib';
import type { HttpsVersion, OutsideLink } from '../../core/site/httpsVersion';
import type { ProbeReport } from '../probe/probeEntrances';
import type { Store } from './store';

/** What a probe of a site brought: entrances, certificates, HSTS, and https versions of what is fetched by http. */
export interface SiteProbe extends ProbeReport {
  readonly versions: readonly HttpsVersion[];
  /** Links to other sites' http pages: harmless. */
  readonly harmlessLinks: number;
  /** Those pages, the most linked first; missing where they were not looked up. */
  readonly outsideLinks?: readonly OutsideLink[];
}

/** Probes of a site that are kept. */
const KEPT = 20;

/** Keeps a probe; the oldest ones go. */
export async function addProbe(
  store: Store,
  siteId: number,
  sweepId: number | null,
  probe: SiteProbe,
): Promise<number> {
  return store.transaction().execute(async (tx) => {
    const { id } = await tx
      .insertInto('probes')
      .values({
        site_id: siteId,
        sweep_id: sweepId,
        asked_at: probe.askedAt,
        first_end: firstEnd(probe),
        report: gzipSync(JSON.stringify(probe)),
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    const old = await tx
      .selectFrom('probes')
      .select('id')
      .where('site_id', '=', siteId)
      .orderBy('id', 'desc')
      .offset(KEPT)
      .limit(1000)
      .execute();
    if (old.length > 0)
      await tx
        .deleteFrom('probes')
        .where(
          'id',
          'in',
          old.map((o) => o.id),
        )
        .execute();
    return id;
  });
}

function firstEnd({ certificates }: SiteProbe): number | null {
  const ends = certificates.map((c) => Date.parse(c.validTo)).filter(Number.isFinite);
  return ends.length > 0 ? Math.min(...ends) : null;
}

/** The last probe of a site. */
export async function lastProbe(
  store: Store,
  siteId: number,
): Promise<(SiteProbe & { readonly id: number }) | undefined> {
  const row = await store
    .selectFrom('probes')
    .select(['id', 'report'])
    .where('site_id', '=', siteId)
    .orderBy('id', 'desc')
    .limit(1)
    .executeTakeFirst();
  return row && { ...(JSON.parse(gunzipSync(row.report).toString('utf8')) as SiteProbe), id: row.id };
}

/** The last probe that belongs to a sweep. */
export async function probeOfSweep(store: Store, sweepId: number): Promise<SiteProbe | undefined> {
  const row = await store
    .selectFrom('probes')
    .select('report')
    .where('sweep_id', '=', sweepId)
    .orderBy('id', 'desc')
    .limit(1)
    .executeTakeFirst();
  return row && (JSON.parse(gunzipSync(row.report).toString('utf8')) as SiteProbe);
}

/** When a site was probed, the latest first. */
export function probeTimes(store: Store, siteId: number): Promise<{ id: number; askedAt: string }[]> {
  return store
    .selectFrom('probes')
    .select(['id', 'asked_at as askedAt'])
    .where('site_id', '=', siteId)
    .orderBy('id', 'desc')
    .execute();
}
