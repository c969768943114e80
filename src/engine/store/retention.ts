import { setImmediate as pause } from 'node:timers/promises';
import { sql } from 'kysely';
import { isWhole } from '../../core/site/currentSweep';
import { listSweeps } from './sweeps';
import type { Store } from './store';

/** Bodies that are deleted at a time: work on the database goes on in between. */
const AT_ONCE = 500;

/**
 * Keeps the files of the captures of a site's last sweeps, and of older ones what was found out: findings, fixes, figures,
 * graphs. Captures made of imported files count by their day.
 * @param keep sweeps with captures that stay whole, at least one
 * @returns captures whose files were let go
 */
export async function thinSite(store: Store, siteId: number, keep: number): Promise<number> {
  const sweeps = (await listSweeps(store, siteId)).filter((s) => isWhole(s) && s.captures > 0);
  const old = sweeps.slice(Math.max(1, keep)).map((s) => s.id);
  if (old.length === 0) return 0;
  const rows = await store
    .updateTable('captures')
    .set({ thinned_at: new Date().toISOString(), screenshot_hash: null })
    .where('sweep_id', 'in', old)
    .where('thinned_at', 'is', null)
    .returning('id')
    .execute();
  for (let i = 0; i < rows.length; i += AT_ONCE)
    await store
      .deleteFrom('capture_bodies')
      .where(
        'capture_id',
        'in',
        rows.slice(i, i + AT_ONCE).map((r) => r.id),
      )
      .execute();
  if (rows.length > 0) await removeUnusedBodies(store);
  return rows.length;
}

/** Deletes files that no capture uses any more; gives how many. */
export async function removeUnusedBodies(store: Store): Promise<number> {
  let removed = 0;
  for (;;) {
    const { numAffectedRows = 0n } = await sql`
      delete from bodies where id in (
        select bodies.id from bodies
        where not exists (select 1 from capture_bodies where capture_bodies.body_id = bodies.id)
        limit ${AT_ONCE})`.execute(store);
    removed += Number(numAffectedRows);
    if (numAffectedRows < BigInt(AT_ONCE)) return removed;
  }
}

/** Bytes that a site takes in the database. */
export interface SiteDisk {
  readonly siteId: number;
  readonly captures: number;
  /** Captures of which only what was found out is kept. */
  readonly thinned: number;
  /** What was found out of captures: graphs, fixes, findings. */
  readonly captureBytes: number;
  /** Files that its captures use; a file that several sites use counts for each. */
  readonly bodyBytes: number;
}

/** Disk use of each site; other work goes on between two of them. */
export async function diskBySite(store: Store, siteIds: readonly number[]): Promise<SiteDisk[]> {
  const out: SiteDisk[] = [];
  for (const siteId of siteIds) {
    const { rows } = await sql<Omit<SiteDisk, 'siteId' | 'bodyBytes'>>`
      select count(*) as captures, count(thinned_at) as thinned,
        coalesce(sum(length(capture) + length(audit)), 0) as captureBytes
      from captures where site_id = ${siteId}`.execute(store);
    const bodies = await sql<{ bytes: number }>`
      select coalesce(sum(size), 0) as bytes from bodies where id in (
        select body_id from capture_bodies join captures on captures.id = capture_bodies.capture_id
        where captures.site_id = ${siteId})`.execute(store);
    const captures = rows[0] ?? { captures: 0, thinned: 0, captureBytes: 0 };
    out.push({ siteId, ...captures, bodyBytes: bodies.rows[0]?.bytes ?? 0 });
    await pause();
  }
  return out;
}
