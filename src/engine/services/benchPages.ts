import type { Concern } from '../../core/checks/concern';
import type { Fix } from '../../core/fixes/fix';
import type { LoadGraph } from '../../core/load/graph';
import { auditsOf, deviceIn, listCaptures, type CaptureRow, type StoredAudit } from '../store/captures';
import { concernsOfFindings } from '../store/findings';
import { placesOf } from '../store/pagePlaces';
import type { Store } from '../store/store';

/** A recorded page with what the bench computes with. */
export interface BenchRow {
  readonly row: CaptureRow;
  readonly graph: LoadGraph;
  /** A fix of nothing but muted findings is not offered. */
  readonly fixes: readonly Fix[];
  /** Concern of each finding that is not muted, by its id. */
  readonly concerns: Readonly<Record<string, Concern>>;
  /** Links that lead to it; 0 for a page that was not crawled. */
  readonly linksIn: number;
  readonly template?: { readonly id: string; readonly name: string };
}

/**
 * The pages of a sweep for one device, or for the one that it has.
 * @param only the capture of the one page that is wanted
 */
export async function benchPages(
  store: Store,
  sweepId: number,
  wanted: 'phone' | 'desktop',
  only?: number,
): Promise<{ device: 'phone' | 'desktop'; pages: BenchRow[] }> {
  const device = await deviceIn(store, sweepId, wanted);
  const rows = await listCaptures(store, sweepId, device);
  const audits: { readonly row: CaptureRow; readonly audit: StoredAudit }[] = [];
  for await (const found of auditsOf(store, only === undefined ? rows : rows.filter((r) => r.id === only)))
    audits.push(found);
  const concerns = await concernsOfFindings(
    store,
    audits.map((a) => a.row.id),
  );
  const places = await placesOf(
    store,
    sweepId,
    audits.map((a) => a.row.page),
  );
  return {
    device,
    pages: audits.map(({ row, audit }) => {
      const own = concerns.get(row.id) ?? {};
      const place = places.get(row.page);
      return {
        row,
        graph: audit.graph,
        fixes: audit.fixes.filter((f) => f.findings.some((id) => id in own)),
        concerns: own as Record<string, Concern>,
        linksIn: place?.linksIn ?? 0,
        template: place?.template,
      };
    }),
  };
}
