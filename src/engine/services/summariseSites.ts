import { deviceOf, type Visitor } from '../../core/load/visitors';
import { currentSweep } from '../../core/site/currentSweep';
import { deviceIn, listCaptures } from '../store/captures';
import { countClean } from '../store/findings';
import { listSites, type SiteRow } from '../store/sites';
import { listSweeps } from '../store/sweeps';
import type { Store } from '../store/store';
import { forecastInThread } from './sweepForecasts';

/** A site with the figures of its last sweep. */
export interface SiteSummary extends SiteRow {
  readonly sweep?: { readonly id: number; readonly day: string; readonly addresses: number };
  /** Pages recorded as the visitor's device. */
  readonly pages: number;
  /** Average hero paint now and with every offered fix. */
  readonly heroMs?: number;
  readonly fixedMs?: number;
  /** Pages without any finding that breaks, exposes or slows. */
  readonly cleanPages: number;
  /** Hero paint of each page, the slowest first. */
  readonly heroes: readonly number[];
}

/** Sites for one visitor, of those that somebody sees; pages without a recording of the visitor's device use the other one. */
export async function summariseSites(
  store: Store,
  visitor: Visitor,
  sees: (siteId: number) => boolean = () => true,
): Promise<SiteSummary[]> {
  const out: SiteSummary[] = [];
  for (const site of (await listSites(store)).filter((s) => sees(s.id))) {
    const sweep = currentSweep(await listSweeps(store, site.id));
    const rows = sweep ? await listCaptures(store, sweep.id, await deviceIn(store, sweep.id, deviceOf(visitor))) : [];
    const forecast = sweep && rows.length > 0 ? await forecastInThread(store, sweep.id, visitor) : undefined;
    const clean = await countClean(
      store,
      rows.map((r) => r.id),
    );
    out.push({
      ...site,
      sweep: sweep && { id: sweep.id, day: sweep.day, addresses: sweep.addresses },
      pages: rows.length,
      heroMs: forecast?.now.lcpMs,
      fixedMs: forecast?.allFixesMs,
      cleanPages: clean,
      heroes: forecast?.pages.map((p) => p.nowMs).sort((a, b) => b - a) ?? [],
    });
  }
  return out;
}
