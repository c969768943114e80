import { createContext, useCallback, useContext, useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { shortHash } from '../../core/hash';
import { deviceOf, VISITORS, parseVisitor, type Visitor } from '../../core/load/visitors';
import { groupFixes, type FixGroup } from '../../core/plan/staircase';
import { currentSweep } from '../../core/site/currentSweep';
import type { Answer, Ask, BenchAnswer, BenchPage, StaircaseAnswer, StoryAnswer } from '../../workers/benchMessages';
import { shortTitles } from '../ui/titles';
import { useResource, type Resource } from './api';
import { isOpen, useJobs } from './jobs';
import { setQuery, useLocation } from './router';
import type { BenchAnswerPages, SiteAnswer } from './types';

/** What the frame and every screen of a site share. */
export interface Bench {
  readonly site: Resource<SiteAnswer>;
  readonly sweepId?: number;
  readonly data: Resource<BenchAnswerPages>;
  readonly visitor: Visitor;
  readonly pages: readonly BenchPage[];
  readonly groups: readonly FixGroup[];
  /** Ids of the groups on the bench, in the order in which they were put there. */
  readonly chosen: readonly string[];
  readonly answer?: BenchAnswer;
  readonly staircase?: StaircaseAnswer;
  /** The worker has the pages: stories can be asked for. */
  readonly ready: boolean;
  /** The last change can be taken back. */
  readonly canUndo: boolean;
  toggle(groupId: string): void;
  choose(ids: readonly string[]): void;
  undo(): void;
  setVisitor(id: string): void;
  story(captureId: number): Promise<StoryAnswer>;
}

const Context = createContext<Bench | undefined>(undefined);

/** The bench of the site at hand. */
export function useBench(): Bench {
  const bench = useContext(Context);
  if (!bench) throw new Error('no bench around this screen');
  return bench;
}

/** The visitor named in the address, or the first. */
export function useVisitor(): Visitor {
  const { query } = useLocation();
  const name = query.get('visitor') ?? '';
  return useMemo(() => {
    try {
      return name ? parseVisitor(name) : (VISITORS[0] as Visitor);
    } catch {
      return VISITORS[0] as Visitor;
    }
  }, [name]);
}

/** Short form of a group's id, for the address. */
export const groupKey = (id: string) => shortHash(id).slice(0, 7);

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
  const pages = useMemo<BenchPage[]>(() => {
    const rows = data.value?.pages ?? [];
    const titles = shortTitles(rows.map((p) => p.row.title || p.row.page));
    return rows.map((p, i) => ({
      captureId: p.row.id,
      title: titles[i] ?? p.row.page,
      graph: p.graph,
      fixes: p.fixes,
      concerns: p.concerns,
    }));
  }, [data.value]);
  const groups = useMemo(() => groupFixes(pages), [pages]);
  const keys = query.get('bench') ?? '';
  const chosen = useMemo(() => {
    const byKey = new Map(groups.map((g) => [groupKey(g.id), g.id]));
    return keys.split('.').flatMap((k) => byKey.get(k) ?? []);
  }, [keys, groups]);
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

  const worker = useForecasts(pages, visitor, chosen);
  const bench: Bench = {
    site,
    sweepId,
    data,
    visitor,
    pages,
    groups,
    chosen,
    answer: worker.answer,
    staircase: worker.staircase,
    ready: worker.ready,
    canUndo: history.current.length > 0,
    toggle: (id) => write(chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]),
    choose: write,
    undo: () => {
      const before = history.current.pop();
      if (before === undefined) return;
      localStorage.setItem(`bench:${siteId}`, before);
      setQuery({ bench: before || null });
    },
    setVisitor: (id) => setQuery({ visitor: id }),
    story: worker.story,
  };
  return <Context.Provider value={bench}>{children}</Context.Provider>;
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

interface Forecasts {
  readonly answer?: BenchAnswer;
  readonly staircase?: StaircaseAnswer;
  readonly ready: boolean;
  story(captureId: number): Promise<StoryAnswer>;
}

/**
 * Keeps two workers with the pages and asks them whenever visitor or bench change: the staircase takes
 * a second and must not keep the bench waiting.
 */
function useForecasts(pages: readonly BenchPage[], visitor: Visitor, chosen: readonly string[]): Forecasts {
  const worker = useRef<Worker | undefined>(undefined);
  const climber = useRef<Worker | undefined>(undefined);
  const ids = useRef(0);
  const waiting = useRef(new Map<number, (value: StoryAnswer) => void>());
  const latest = useRef({ bench: 0, staircase: 0 });
  // Answers carry the visitor they are for: figures of another one are never shown.
  const [answer, setAnswer] = useState<{ visitor: string; value: BenchAnswer }>();
  const [staircase, setStaircase] = useState<{ visitor: string; value: StaircaseAnswer }>();
  const [posted, setPosted] = useState<readonly BenchPage[]>();
  const send = useCallback((ask: Ask) => {
    if (ask.ask !== 'staircase') worker.current?.postMessage(ask);
    if (ask.ask === 'staircase' || ask.ask === 'pages') climber.current?.postMessage(ask);
  }, []);

  useEffect(() => {
    const both = [0, 1].map(
      () => new Worker(new URL('../../workers/benchWorker.ts', import.meta.url), { type: 'module' }),
    );
    [worker.current, climber.current] = both;
    const onMessage = (event: MessageEvent<Answer>) => {
      const { data } = event;
      if (data.answer === 'bench') {
        if (data.id !== latest.current.bench) return;
        setAnswer({ visitor: data.visitor, value: data.value });
      } else if (data.answer === 'staircase') {
        if (data.id === latest.current.staircase) setStaircase({ visitor: data.visitor, value: data.value });
      } else {
        waiting.current.get(data.id)?.(data.value);
        waiting.current.delete(data.id);
      }
    };
    for (const w of both) w.onmessage = onMessage;
    return () => both.forEach((w) => w.terminate());
  }, []);
  useEffect(() => {
    setStaircase(undefined);
    send({ ask: 'pages', pages });
    setPosted(pages);
  }, [pages, send]);
  useEffect(() => {
    if (pages.length === 0) return;
    latest.current.bench = ++ids.current;
    send({ ask: 'bench', id: latest.current.bench, visitor, groups: chosen });
  }, [pages, visitor, chosen, send]);
  useEffect(() => {
    if (pages.length === 0) return;
    latest.current.staircase = ++ids.current;
    send({ ask: 'staircase', id: latest.current.staircase, visitor });
  }, [pages, visitor, send]);
  const story = useCallback(
    (captureId: number) =>
      new Promise<StoryAnswer>((done) => {
        const id = ++ids.current;
        waiting.current.set(id, done);
        send({ ask: 'story', id, visitor, groups: chosen, captureId });
      }),
    [visitor, chosen, send],
  );
  return {
    answer: answer?.visitor === visitor.id ? answer.value : undefined,
    staircase: staircase?.visitor === visitor.id ? staircase.value : undefined,
    ready: posted === pages,
    story,
  };
}
