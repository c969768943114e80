import { deviceOf, type Visitor } from '../../core/load/visitors';
import { currentSweep, isWhole } from '../../core/site/currentSweep';
import { needOf, siteNeeds, type SiteNeed } from '../../core/site/siteNeeds';
import { codeStamp } from '../codeStamp';
import { log } from '../log';
import { deviceIn, listCaptures } from '../store/captures';
import { countClean } from '../store/findings';
import { keepOnce, readKeptOf } from '../store/kept';
import { allSweeps, portfolioRows, type BriefSweep } from '../store/portfolio';
import { listSites, type SiteRow } from '../store/sites';
import type { Store } from '../store/store';
import { forecastInThread } from './sweepForecasts';

/** Pages whose hero paint is drawn for a site: of more, so many that stand for all. */
const MOST_HEROES = 24;
/** Sites for whose figures a list waits; those of more are made meanwhile, and the list says so. */
const WAITED_FOR = 3;

/** Figures of one sweep, for one visitor, as the list of sites shows them. */
interface SweepSummary {
  readonly addresses: number;
  /** Pages recorded as the visitor's device. */
  readonly pages: number;
  /** Average hero paint now and with every offered fix. */
  readonly heroMs?: number;
  readonly fixedMs?: number;
  /** Pages without any finding that breaks, exposes or slows. */
  readonly cleanPages: number;
  /** Hero paint of pages, the slowest first: all, or some that stand for all. */
  readonly heroes: readonly number[];
}

/** A site with the figures of its last sweep, and why somebody should look at it. */
export interface SiteSummary extends SiteRow, Omit<SweepSummary, 'addresses'> {
  readonly sweep?: { readonly id: number; readonly day: string; readonly addresses: number };
  readonly needs: readonly SiteNeed[];
  /** How much it needs attention, to sort by. */
  readonly need: number;
  /** Its figures are being worked out. */
  readonly pending: boolean;
}

const NOTHING: Omit<SweepSummary, 'addresses'> = { pages: 0, cleanPages: 0, heroes: [] };

/**
 * Sites for one visitor, of those that somebody sees; pages without a recording of the visitor's device use the other one.
 * Figures of sweeps are kept from when their job ended: a list of hundreds of sites is read, not worked out.
 */
export async function summariseSites(
  store: Store,
  visitor: Visitor,
  sees: (siteId: number) => boolean = () => true,
): Promise<SiteSummary[]> {
  const sites = (await listSites(store)).filter((s) => sees(s.id));
  const [sweeps, facts] = await Promise.all([allSweeps(store), portfolioRows(store)]);
  const now = Date.now();
  const read = sites.map((site) => {
    const own = sweeps.get(site.id) ?? [];
    const current = currentSweep(own);
    return { site, current, before: current && sweepBefore(own, current) };
  });
  const wanted = read.flatMap(({ current, before }) => [current, before].flatMap((s) => s?.id ?? []));
  const kept = await readKeptOf<SweepSummary>(store, wanted, nameOf(visitor));
  const missing = read.flatMap(({ current }) => (current && !kept.has(current.id) ? [current.id] : []));
  const made = new Map<number, SweepSummary>();
  for (const id of missing.slice(0, WAITED_FOR)) {
    const summary = await sweepSummary(store, id, visitor);
    if (summary) made.set(id, summary);
  }
  if (missing.length > WAITED_FOR) makeMeanwhile(store, missing.slice(WAITED_FOR), visitor);
  return read.map(({ site, current, before }) => {
    const summary = current && (kept.get(current.id) ?? made.get(current.id));
    const older = before && kept.get(before.id);
    const fact = facts.get(site.id) ?? { brokenLimits: 0, brokenPromises: 0, unread: 0 };
    const { addresses, ...figures } = summary ?? { ...NOTHING, addresses: 0 };
    const needs = siteNeeds(
      {
        ...fact,
        heroMs: figures.heroMs,
        heroBeforeMs: older?.heroMs,
        notRecorded: !current || current.captures === 0,
      },
      now,
    );
    return {
      ...site,
      ...figures,
      sweep: current && { id: current.id, day: current.day, addresses },
      needs,
      need: needOf(needs),
      pending: current !== undefined && summary === undefined,
    };
  });
}

const nameOf = (visitor: Visitor) => `summary ${visitor.id} ${codeStamp()}`;

const sweepBefore = (sweeps: readonly BriefSweep[], current: BriefSweep) =>
  sweeps.slice(sweeps.indexOf(current) + 1).find((s) => isWhole(s) && s.captures > 0);

/** The figures of a sweep: kept ones, else made now. */
export function sweepSummary(store: Store, sweepId: number, visitor: Visitor): Promise<SweepSummary | undefined> {
  return keepOnce(store, sweepId, nameOf(visitor), async () => {
    const rows = await listCaptures(store, sweepId, await deviceIn(store, sweepId, deviceOf(visitor)));
    const forecast = rows.length > 0 ? await forecastInThread(store, sweepId, visitor) : undefined;
    const { addresses } = await store
      .selectFrom('pages')
      .select((e) => e.fn.countAll<number>().as('addresses'))
      .where('sweep_id', '=', sweepId)
      .executeTakeFirstOrThrow();
    const heroes = forecast?.pages.map((p) => p.nowMs).sort((a, b) => b - a) ?? [];
    return {
      addresses,
      pages: rows.length,
      heroMs: forecast?.now.lcpMs,
      fixedMs: forecast?.allFixesMs,
      cleanPages: await countClean(
        store,
        rows.map((r) => r.id),
      ),
      heroes: someOf(heroes),
    };
  });
}

/** As many as are drawn, evenly over all, the first and the last among them. */
function someOf(heroes: readonly number[]): number[] {
  if (heroes.length <= MOST_HEROES) return [...heroes];
  return Array.from(
    { length: MOST_HEROES },
    (_, i) => heroes[Math.round((i * (heroes.length - 1)) / (MOST_HEROES - 1))] ?? 0,
  );
}

let making: Promise<void> | undefined;

/** Makes figures one sweep after the other while nobody waits; a list that is asked for again finds more of them. */
function makeMeanwhile(store: Store, sweepIds: readonly number[], visitor: Visitor): void {
  making ??= (async () => {
    for (const id of sweepIds) await sweepSummary(store, id, visitor);
  })()
    .catch((err: unknown) => log.warn({ err }, 'figures of sites could not be made'))
    .finally(() => (making = undefined));
}
