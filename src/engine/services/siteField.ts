import { shortHash } from '../../core/hash';
import { disagreements, type Reason } from '../../core/field/disagreement';
import type { FieldRow } from '../../core/field/fieldData';
import { fitMix, p75Change, type FieldPage } from '../../core/field/fitVisitors';
import type { Fitted, P75Change } from '../../core/field/mix';
import { applyFixes } from '../../core/fixes/applyFixes';
import { simulate } from '../../core/load/simulate';
import { deviceOf, specText, visitorWith, type Visitor } from '../../core/load/visitors';
import type { Device } from '../../core/capture/capture';
import { errorShareOf } from '../../core/plan/forecast';
import { codeStamp } from '../codeStamp';
import { latestField, listFieldFiles, type FieldFile, type LatestField } from '../store/fieldFiles';
import { keepOnce, readKept } from '../store/kept';
import type { Store } from '../store/store';
import { benchPages, type BenchRow } from './benchPages';

/** A recorded page with what real visits to it came to. */
export interface FieldPageView {
  readonly captureId: number;
  readonly page: string;
  readonly title: string;
  readonly row?: FieldRow;
  /** For the chosen visitor, ms and score. */
  readonly lab: { readonly ttfbMs: number; readonly fcpMs: number; readonly lcpMs: number; readonly cls: number };
  readonly reasons: readonly Reason[];
}

/** What the field data of a site says beside the lab. */
export interface SiteField {
  readonly files: readonly FieldFile[];
  readonly device: Device;
  /** Latest month that there is, YYYY-MM; empty where none was stated. */
  readonly month: string;
  readonly origin?: FieldRow;
  readonly pages: readonly FieldPageView[];
  /** Pages that a fit can use: recorded ones with field data of times. */
  readonly fittable: number;
  /** Undefined until it has been asked for. */
  readonly fit?: FittedVisitors;
}

/** Visitors fitted to the site, as they are used from then on. */
export interface FittedVisitors extends Fitted {
  readonly name: string;
  /** Of the visitor whose loads come to the p75s. */
  readonly spec: string;
}

/** Field data of a site beside what its sweep says for a visitor. */
export async function siteField(
  store: Store,
  site: { readonly id: number; readonly name: string },
  sweepId: number,
  visitor: Visitor,
): Promise<SiteField> {
  const { device, pages } = await benchPages(store, sweepId, deviceOf(visitor));
  const latest = await latestField(store, site.id, device);
  const views = pages.map((p): FieldPageView => {
    const row = latest.rowFor(p.row.page);
    const { ttfbMs, fcpMs, lcpMs, cls = 0 } = simulate(p.graph, visitor).milestones;
    const lab = { ttfbMs, fcpMs, lcpMs, cls };
    const redirects = p.graph.fetches.filter((f) => f.kind === 'document' && f.redirectTo !== undefined).length;
    return {
      captureId: p.row.id,
      page: p.row.page,
      title: p.row.title,
      row,
      lab,
      reasons: row ? disagreements({ ...lab, redirects }, row) : [],
    };
  });
  const fittable = fieldPages(pages, latest);
  return {
    files: await listFieldFiles(store, site.id),
    device,
    month:
      latest.rows
        .map((r) => r.month)
        .sort()
        .at(-1) ?? '',
    origin: latest.rows.find((r) => r.of === 'origin'),
    pages: views,
    fittable: fittable.length,
    fit: await readKept(store, sweepId, fitName(device, fittable)),
  };
}

/** Visitors fitted to a sweep's pages and their field data; kept. Takes seconds: call it in a thread. */
export async function fitVisitors(
  store: Store,
  site: { readonly id: number; readonly name: string },
  sweepId: number,
  wanted: Device,
): Promise<FittedVisitors | undefined> {
  const { device, pages } = await benchPages(store, sweepId, wanted);
  const fittable = fieldPages(pages, await latestField(store, site.id, device));
  if (fittable.length === 0) return undefined;
  return keepOnce(store, sweepId, fitName(device, fittable), async () => {
    const fitted = fitMix(fittable);
    const { rttMs, downKbps, cpuFactor } = fitted.p75Visitor;
    const spec = specText({
      ...visitorWith(device),
      rttMs: Math.round(rttMs),
      downKbps: Math.round(downKbps),
      upKbps: Math.round(downKbps / 2.5),
      cpuFactor: Math.round(cpuFactor * 10) / 10,
    });
    return { ...fitted, name: `Your visitors (fitted, ${device}): ${site.name}`.slice(0, 60), spec };
  });
}

/** The p75 over all visits to a sweep's pages, now and with groups of fixes. */
export async function fieldForecast(
  store: Store,
  site: { readonly id: number; readonly name: string },
  sweepId: number,
  wanted: Device,
  groups: readonly string[],
): Promise<P75Change | undefined> {
  const fit = await fitVisitors(store, site, sweepId, wanted);
  if (!fit) return undefined;
  const { device, pages } = await benchPages(store, sweepId, wanted);
  const latest = await latestField(store, site.id, device);
  const chosen = pages.map((p) => ({
    now: p.graph,
    after: applyFixes(
      p.graph,
      p.fixes.filter((f) => groups.includes(f.group)),
    ),
    visits: ownRow(p, latest)?.visits ?? 1,
  }));
  const error = pages.reduce((sum, p) => sum + errorShareOf(p.graph), 0) / Math.max(1, pages.length);
  return p75Change(chosen, fit.mix, error);
}

const ownRow = (p: BenchRow, latest: LatestField) => {
  const row = latest.rowFor(p.row.page);
  return row?.of === 'page' ? row : undefined;
};

/** Pages with field data of their own; without any, all pages with that of their origin. */
function fieldPages(pages: readonly BenchRow[], latest: LatestField): FieldPage[] {
  const withRow = (rowOf: (p: BenchRow) => FieldRow | undefined) =>
    pages.flatMap((p): FieldPage[] => {
      const row = rowOf(p);
      return row && (row.p75.lcpMs ?? row.p75.fcpMs ?? row.p75.ttfbMs) !== undefined
        ? [{ page: p.row.page, graph: p.graph, row }]
        : [];
    });
  const own = withRow((p) => ownRow(p, latest));
  return own.length > 0 ? own : withRow((p) => latest.rowFor(p.row.page));
}

const fitName = (device: Device, pages: readonly FieldPage[]) =>
  `fit ${device} ${shortHash(JSON.stringify(pages.map((p) => p.row)))} ${codeStamp()}`;
