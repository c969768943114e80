import { createContext, useCallback, useContext, useEffect, useMemo, useRef, type ReactNode } from 'react';
import { create } from 'zustand';
import { deviceOf, type Visitor } from '../../core/load/visitors';
import { groupKey } from '../../core/plan/groupKey';
import { pagesIn, parseScope, scopeText, type Scope } from '../../core/plan/plan';
import type { GroupInfo, SweepForecast } from '../../core/plan/sweepForecast';
import { chooseSweep } from '../../core/site/currentSweep';
import type {
  BenchAnswer,
  ComparedAnswer,
  ComparedSet,
  StoryAnswer,
  TargetAnswer,
  TargetFigure,
} from '../../workers/benchMessages';
import { withOwnRanges, type OwnTrust } from '../../core/proof/learn';
import { proofsPath, type ProofsAnswer } from '../proofs/proofsPath';
import { shortTitles } from '../../core/site/shortTitles';
import { readAnew, useResource, type Resource } from './api';
import { askBench, askCompared, askOrder, askStory, askTarget, useForecasts, useWorkers } from './forecasts';
import { isOpen, useJobs } from './jobs';
import { setQuery, useLocation } from './location';
import { bestGainsPath, forecastPath, groupsPath, overviewPath } from './sweepPaths';
import type { OverviewAnswer, SiteAnswer } from './types';
import { useVisitor } from './visitors';

/** A recorded page as the bench and the lists name it. */
export interface BenchPage {
  readonly captureId: number;
  readonly title: string;
  readonly page: string;
  /** Links that lead to it; 0 where that is not known. */
  readonly linksIn: number;
  readonly template?: { readonly id: string; readonly name: string };
}

/** What the frame and every screen of a site share. */
export interface Bench {
  readonly siteId: number;
  /** Where the addresses of the site's screens begin: "/sites/1". Known before the site has been read. */
  readonly base: string;
  readonly site: Resource<SiteAnswer>;
  readonly sweepId?: number;
  readonly data: Resource<OverviewAnswer>;
  readonly visitor: Visitor;
  readonly pages: readonly BenchPage[];
  /** Pages that the bench is about. */
  readonly scope: Scope;
  readonly scoped: readonly BenchPage[];
  /** Captures of the pages that the bench is about; undefined for all of them. */
  readonly within?: readonly number[];
  readonly groups: readonly GroupInfo[];
  /** Ids of the groups on the bench, in the order in which they count. */
  readonly chosen: readonly string[];
  /** Keys of the bench as they stand in the address. */
  readonly keys: string;
  /** The last change can be taken back. */
  readonly canUndo: boolean;
  /** What the sweep says for the visitor while nothing is on the bench; undefined while it is worked out. */
  readonly forecast?: SweepForecast;
  /** When that forecast was read, in ms since 1970; undefined while one is on its way. */
  readonly forecastReadAt: number | undefined;
  readonly forecastFault: Pick<Resource<SweepForecast>, 'error' | 'reload'>;
  /** What the site's proofs say of its forecasts. */
  readonly trust?: OwnTrust;
  /** The workers can be asked. */
  readonly ready: boolean;
  story(captureId: number): Promise<StoryAnswer>;
  /** The best order of groups. */
  order(groups: readonly string[]): Promise<readonly string[]>;
  /** The smallest set that brings a figure to so many ms. */
  target(figure: TargetFigure, targetMs: number): Promise<TargetAnswer>;
  compare(sets: readonly ComparedSet[]): Promise<readonly ComparedAnswer[]>;
  toggle(groupId: string): void;
  choose(ids: readonly string[]): void;
  /** Puts groups on the bench behind those that are there. */
  add(ids: readonly string[]): void;
  /** Moves a group to another place in the order. */
  move(groupId: string, to: number): void;
  undo(): void;
  setScope(scope: Scope): void;
  setVisitor(id: string): void;
}

const Context = createContext<Bench | undefined>(undefined);

/** The bench of the site at hand; undefined where there is none. */
export const useMaybeBench = (): Bench | undefined => useContext(Context);

/** The bench of the site at hand. */
export function useBench(): Bench {
  const bench = useContext(Context);
  if (!bench) throw new Error('no bench around this screen');
  return bench;
}

/** Earlier benches by site, for undo, as they stood in the address. */
const useHistory = create<Readonly<Record<number, readonly string[]>>>(() => ({}));

const keptAt = (siteId: number) => `bench:${siteId}`;

function showBench(siteId: number, keys: string): void {
  localStorage.setItem(keptAt(siteId), keys);
  setQuery({ bench: keys || null });
}

/** The site that an address belongs to; 0 for one of no site. */
const siteIn = (path: string) => Number(/^\/sites\/(\d+)/.exec(path)?.[1] ?? 0);

/**
 * The forecast of the bench, with ranges as the site's proofs ask for them; undefined while it is worked out. Not part of
 * the bench, since few need it and it comes after every change.
 */
export function useBenchAnswer(): BenchAnswer | undefined {
  const { forecast, chosen, within, visitor, trust } = useBench();
  const said = useForecasts((s) => s.answer);
  const idle = useMemo(
    () => forecast && chosen.length === 0 && !within && emptyBench(forecast),
    [forecast, chosen, within],
  );
  const answer = idle || (said?.visitor === visitor.id ? said.value : undefined);
  const factor = trust?.factor ?? 1;
  return useMemo(() => answer && withOwnRanges(answer, factor), [answer, factor]);
}

/** Gives the screens around which it stands the bench of the site that the address names. */
export function BenchProvider({ children }: { children: ReactNode }) {
  const { path, query } = useLocation();
  const siteId = siteIn(path);
  const visitor = useVisitor();
  const site = useResource<SiteAnswer>(siteId ? `/api/sites/${siteId}` : undefined);
  const sweepId = chooseSweep(site.value?.sweeps ?? [], Number(query.get('sweep')))?.id;
  const overview = useResource<OverviewAnswer>(
    sweepId === undefined ? undefined : overviewPath(sweepId, deviceOf(visitor)),
  );
  const groupsAt = sweepId === undefined ? undefined : groupsPath(sweepId, deviceOf(visitor));
  const offered = useResource<readonly GroupInfo[]>(groupsAt);
  const forecastAt = sweepId === undefined ? undefined : forecastPath(sweepId, visitor.id);
  const gainsAt = sweepId === undefined ? undefined : bestGainsPath(sweepId, visitor.id);
  const readOverview = overview.reload;
  const readAll = useCallback(() => {
    readOverview();
    for (const path of [groupsAt, forecastAt, gainsAt]) if (path !== undefined) readAnew(path);
  }, [readOverview, groupsAt, forecastAt, gainsAt]);
  const data = { ...overview, reload: readAll };
  const recorded = (data.value?.pages.length ?? 0) > 0 && data.value?.sweep.id === sweepId;
  const forecast = useResource<SweepForecast>(recorded ? forecastAt : undefined);
  const pages = pagesOf(data.value);
  const groups = offered.value ?? NONE;
  const keys = query.get('bench') ?? '';
  const chosen = useMemo<readonly string[]>(() => {
    if (!keys) return NONE;
    const byKey = new Map(groups.map((g) => [groupKey(g.id), g.id]));
    return keys.split('.').flatMap((k) => byKey.get(k) ?? []);
  }, [keys, groups]);
  const scopeWords = query.get('scope') ?? '';
  const scope = useMemo(() => parseScope(scopeWords), [scopeWords]);
  // A scope that names nothing in this sweep is about all of it.
  const scoped = useMemo(() => {
    const named = pagesIn(
      pages.map((p) => ({ ...p, template: p.template?.id })),
      scope,
    ).map((p) => p.captureId);
    return named.length > 0 && named.length < pages.length ? pages.filter((p) => named.includes(p.captureId)) : pages;
  }, [pages, scope]);
  const within = useMemo(() => (scoped === pages ? undefined : scoped.map((p) => p.captureId)), [scoped, pages]);
  const trust = useResource<ProofsAnswer>(siteId ? proofsPath(siteId) : undefined).value?.trust;
  const past = useHistory()[siteId] ?? NONE;
  const saidPath = useForecasts((s) => s.path);
  const about = useMemo(() => ({ visitor, groups: chosen, within }), [visitor, chosen, within]);
  const known = forecast.stale ? undefined : forecast.value;
  const write = (ids: readonly string[]) => {
    // Forecast while the screens are drawn anew.
    askBench({ visitor, groups: ids, within });
    useHistory.setState({ [siteId]: [...past, keys] });
    showBench(siteId, ids.map(groupKey).join('.'));
  };
  const pagesAt = benchPath(sweepId, data.value);
  const bench: Bench = {
    siteId,
    base: `/sites/${siteId}`,
    site,
    sweepId,
    data,
    visitor,
    pages,
    scope: scoped === pages ? { kind: 'all' } : scope,
    scoped,
    within,
    groups,
    chosen,
    keys,
    canUndo: past.length > 0,
    forecast: known,
    forecastReadAt: known && !forecast.loading ? forecast.readAt : undefined,
    forecastFault: forecast,
    trust,
    ready: pagesAt !== undefined && saidPath === pagesAt,
    story: useCallback((captureId: number) => askStory(captureId, about), [about]),
    order: useCallback((ids: readonly string[]) => askOrder(ids, about), [about]),
    target: useCallback((figure: TargetFigure, targetMs: number) => askTarget(figure, targetMs, about), [about]),
    compare: askCompared,
    toggle: (id) => write(chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]),
    choose: write,
    add: (ids) => write([...chosen, ...ids.filter((id) => !chosen.includes(id))]),
    move: (id, to) => {
      const rest = chosen.filter((c) => c !== id);
      rest.splice(Math.max(0, Math.min(rest.length, to)), 0, id);
      if (rest.join() !== chosen.join()) write(rest);
    },
    undo: () => {
      const before = past.at(-1);
      if (before === undefined) return;
      useHistory.setState({ [siteId]: past.slice(0, -1) });
      showBench(siteId, before);
    },
    setScope: (next) => setQuery({ scope: scopeText(next) || null }),
    setVisitor: (id) => setQuery({ visitor: id }),
  };
  return <Context.Provider value={siteId ? bench : undefined}>{children}</Context.Provider>;
}

const NONE: readonly never[] = [];

/** Recorded pages that are read before anybody asks what a fix would do; of more, the first question waits for them. */
const READ_AHEAD = 100;

/** Where the workers read the pages of a sweep. */
function benchPath(sweepId: number | undefined, data: OverviewAnswer | undefined): string | undefined {
  return sweepId === undefined || !data || data.sweep.id !== sweepId || data.pages.length === 0
    ? undefined
    : `/api/sweeps/${sweepId}/bench?device=${data.device}`;
}

/**
 * Runs what there is once for all islands of a site: the workers, the bench that this browser has kept, and reading
 * anew when a job has ended.
 */
export function useBenchDriver(): void {
  const { siteId, sweepId, data, site, visitor, chosen, within } = useBench();
  const readsAhead = (data.value?.pages.length ?? 0) <= READ_AHEAD;
  useWorkers(benchPath(sweepId, data.value), data.value, { visitor, groups: chosen, within }, readsAhead);
  useReloadAfterJobs(siteId, site.reload, data.reload);
  useEffect(() => {
    const kept = localStorage.getItem(keptAt(siteId));
    if (!new URL(window.location.href).searchParams.has('bench') && kept) setQuery({ bench: kept });
  }, [siteId]);
}

/** The forecast of a bench with nothing on it. */
function emptyBench({ now, pages }: SweepForecast): BenchAnswer {
  return {
    now,
    after: now,
    groups: [],
    pages: pages.map((p) => ({ ...p, afterMs: p.nowMs, afterFcpMs: p.nowFcpMs })),
  };
}

const madePages = new WeakMap<OverviewAnswer, readonly BenchPage[]>();

/** The recorded pages with titles that tell them apart: the same list for the same answer. */
function pagesOf(data: OverviewAnswer | undefined): readonly BenchPage[] {
  if (!data) return NONE;
  const known = madePages.get(data);
  if (known) return known;
  const titles = shortTitles(data.pages.map((p) => p.row.title || p.row.page));
  const made = data.pages.map(({ row, linksIn, template }, i) => ({
    captureId: row.id,
    title: titles[i] ?? row.page,
    page: row.page,
    linksIn,
    template,
  }));
  madePages.set(data, made);
  return made;
}

/** Reads site and sweep again when a job of the site has begun its sweep or has ended. */
function useReloadAfterJobs(siteId: number, ...reloads: (() => void)[]): void {
  const { jobs } = useJobs();
  const now = jobs?.filter((j) => j.siteId === siteId).map((j) => `${j.id} ${j.sweepId ?? ''} ${isOpen(j)}`);
  const text = now?.join();
  const before = useRef(text);
  const run = useRef(reloads);
  run.current = reloads;
  useEffect(() => {
    if (text === before.current) return;
    const first = before.current === undefined;
    before.current = text;
    if (!first) for (const reload of run.current) reload();
  }, [text]);
}
