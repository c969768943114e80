import { createContext, useCallback, useContext, useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { deviceOf, type Visitor } from '../../core/load/visitors';
import { groupKey } from '../../core/plan/groupKey';
import { pagesIn, parseScope, scopeText, type Scope } from '../../core/plan/plan';
import { groupFixes, type FixGroup } from '../../core/plan/staircase';
import { currentSweep } from '../../core/site/currentSweep';
import type { BenchPage } from '../../workers/benchMessages';
import { shortTitles } from '../ui/titles';
import { useResource, type Resource } from './api';
import { useForecasts, type Forecasts } from './forecasts';
import { isOpen, useJobs } from './jobs';
import { setQuery, useLocation } from './router';
import type { BenchAnswerPages, SiteAnswer } from './types';
import { useVisitor } from './visitors';

/** What the frame and every screen of a site share. */
export interface Bench extends Forecasts {
  readonly siteId: number;
  /** Where the addresses of the site's screens begin: "/sites/1". Known before the site has been read. */
  readonly base: string;
  readonly site: Resource<SiteAnswer>;
  readonly sweepId?: number;
  readonly data: Resource<BenchAnswerPages>;
  readonly visitor: Visitor;
  readonly pages: readonly BenchPage[];
  /** Pages that the bench is about. */
  readonly scope: Scope;
  readonly scoped: readonly BenchPage[];
  readonly groups: readonly FixGroup[];
  /** Ids of the groups on the bench, in the order in which they count. */
  readonly chosen: readonly string[];
  /** Keys of the bench as they stand in the address. */
  readonly keys: string;
  /** The last change can be taken back. */
  readonly canUndo: boolean;
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

export function BenchProvider({ siteId, children }: { siteId: number; children: ReactNode }) {
  const { query } = useLocation();
  const visitor = useVisitor();
  const site = useResource<SiteAnswer>(`/api/sites/${siteId}`);
  const wanted = Number(query.get('sweep')) || undefined;
  const sweeps = site.value?.sweeps;
  const sweepId = (sweeps?.find((s) => s.id === wanted) ?? currentSweep(sweeps ?? []))?.id;
  const data = useResource<BenchAnswerPages>(
    sweepId === undefined ? undefined : `/api/sweeps/${sweepId}/bench?device=${deviceOf(visitor)}`,
  );
  useReloadAfterJobs(siteId, site.reload, data.reload);
  const pages = useMemo(() => benchPagesOf(data.value), [data.value]);
  const groups = useMemo(() => groupFixes(pages), [pages]);
  const keys = query.get('bench') ?? '';
  const chosen = useMemo(() => {
    const byKey = new Map(groups.map((g) => [groupKey(g.id), g.id]));
    return keys.split('.').flatMap((k) => byKey.get(k) ?? []);
  }, [keys, groups]);
  const scopeWords = query.get('scope') ?? '';
  const scope = useMemo(() => parseScope(scopeWords), [scopeWords]);
  // A scope that names nothing in this sweep is about all of it.
  const scoped = useMemo(() => {
    const own = pagesIn(
      pages.map((p) => ({ ...p, page: p.graph.page, template: p.template?.id })),
      scope,
    ).map((p) => p.captureId);
    return own.length > 0 && own.length < pages.length ? pages.filter((p) => own.includes(p.captureId)) : pages;
  }, [pages, scope]);
  const within = useMemo(() => (scoped === pages ? undefined : scoped.map((p) => p.captureId)), [scoped, pages]);
  const history = useRef<string[]>([]);
  const [, setTurn] = useState(0);

  const write = useCallback(
    (ids: readonly string[]) => {
      history.current.push(keys);
      const value = ids.map(groupKey).join('.');
      localStorage.setItem(`bench:${siteId}`, value);
      setQuery({ bench: value || null });
      setTurn((t) => t + 1);
    },
    [keys, siteId],
  );
  useEffect(() => {
    const kept = localStorage.getItem(`bench:${siteId}`);
    if (!new URL(window.location.href).searchParams.has('bench') && kept) setQuery({ bench: kept });
  }, [siteId]);

  const forecasts = useForecasts(pages, visitor, chosen, within);
  const bench: Bench = {
    ...forecasts,
    siteId,
    base: `/sites/${siteId}`,
    site,
    sweepId,
    data,
    visitor,
    pages,
    scope: scoped === pages ? { kind: 'all' } : scope,
    scoped,
    groups,
    chosen,
    keys,
    canUndo: history.current.length > 0,
    toggle: (id) => write(chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]),
    choose: write,
    add: (ids) => write([...chosen, ...ids.filter((id) => !chosen.includes(id))]),
    move: (id, to) => {
      const rest = chosen.filter((c) => c !== id);
      rest.splice(Math.max(0, Math.min(rest.length, to)), 0, id);
      if (rest.join() !== chosen.join()) write(rest);
    },
    undo: () => {
      const before = history.current.pop();
      if (before === undefined) return;
      localStorage.setItem(`bench:${siteId}`, before);
      setQuery({ bench: before || null });
    },
    setScope: (next) => setQuery({ scope: scopeText(next) || null }),
    setVisitor: (id) => setQuery({ visitor: id }),
  };
  return <Context.Provider value={bench}>{children}</Context.Provider>;
}

function benchPagesOf(data: BenchAnswerPages | undefined): BenchPage[] {
  const rows = data?.pages ?? [];
  const titles = shortTitles(rows.map((p) => p.row.title || p.row.page));
  return rows.map((p, i) => ({
    captureId: p.row.id,
    title: titles[i] ?? p.row.page,
    graph: p.graph,
    fixes: p.fixes,
    concerns: p.concerns,
    linksIn: p.linksIn,
    template: p.template,
  }));
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
