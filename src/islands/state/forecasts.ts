import { useEffect } from 'react';
import { create } from 'zustand';
import type { Visitor } from '../../core/load/visitors';
import type {
  Answer,
  Ask,
  BenchAnswer,
  ComparedAnswer,
  ComparedSet,
  StoryAnswer,
  TargetAnswer,
  TargetFigure,
} from '../../workers/benchMessages';

/** What the workers have said, for every island of the page. */
interface Forecasts {
  /** The path that the workers read their pages from; undefined until they may be asked. */
  readonly path?: string;
  /** The latest forecast of the bench, and the visitor that it is for. */
  readonly answer?: { readonly visitor: string; readonly value: BenchAnswer };
  /** Why the pages could not be read. */
  readonly fault?: string;
}

export const useForecasts = create<Forecasts>(() => ({}));

/** What one worker is asked as long as nothing shorter waits for it: these may take a second. */
const LONG = new Set<Ask['ask']>(['order', 'target', 'compare']);

/** Two workers: what takes a second must not keep the bench waiting. They live as long as the window. */
let workers: { readonly quick: Worker; readonly slow: Worker } | undefined;
let lastId = 0;
let latestBench = 0;
/** The pages that a bench is forecast for, once they are known, and what was last asked about them, as JSON. */
let source: { readonly path: string; readonly version: unknown; asked?: string } | undefined;
const waiting = new Map<number, (value: never) => void>();

function send(ask: Ask): void {
  workers ??= { quick: startWorker(), slow: startWorker() };
  if (!LONG.has(ask.ask)) workers.quick.postMessage(ask);
  if (LONG.has(ask.ask) || ask.ask === 'pages') workers.slow.postMessage(ask);
}

function startWorker(): Worker {
  const worker = new Worker(new URL('../../workers/benchWorker.ts', import.meta.url), { type: 'module' });
  worker.onmessage = ({ data }: MessageEvent<Answer>) => {
    if (data.answer === 'failed') useForecasts.setState({ fault: data.what });
    else if (data.answer === 'bench') {
      if (data.id === latestBench)
        useForecasts.setState({ answer: { visitor: data.visitor, value: data.value }, fault: undefined });
    } else {
      waiting.get(data.id)?.(data.value as never);
      waiting.delete(data.id);
    }
  };
  return worker;
}

function put<T>(question: (id: number) => Ask): Promise<T> {
  return new Promise<T>((done) => {
    const id = ++lastId;
    waiting.set(id, done as (value: never) => void);
    send(question(id));
  });
}

/** What a question is about. */
export interface About {
  readonly visitor: Visitor;
  /** Groups of fixes on the bench, in their order. */
  readonly groups: readonly string[];
  /** Captures that the bench is about; all of them if undefined. */
  readonly within?: readonly number[];
}

/** The story of one page, now and with the bench. */
export const askStory = (captureId: number, { visitor, groups }: About) =>
  put<StoryAnswer>((id) => ({ ask: 'story', id, visitor, groups, captureId }));

/** The best order of groups. */
export const askOrder = (groups: readonly string[], { visitor, within }: About) =>
  put<readonly string[]>((id) => ({ ask: 'order', id, visitor, groups, within }));

/** The smallest set that brings a figure to so many ms. */
export const askTarget = (figure: TargetFigure, targetMs: number, { visitor, within }: About) =>
  put<TargetAnswer>((id) => ({ ask: 'target', id, visitor, figure, targetMs, within }));

export const askCompared = (sets: readonly ComparedSet[]) =>
  put<readonly ComparedAnswer[]>((id) => ({ ask: 'compare', id, sets }));

/**
 * Keeps the workers at the pages of a path and asks them whenever pages, visitor or bench change; `version` is what
 * changes with the pages. An empty bench needs no worker: its figures were worked out before. To be used once, by the
 * island that lives on from screen to screen.
 */
export function useWorkers(
  path: string | undefined,
  version: unknown,
  { visitor, groups, within }: About,
  readsAhead: boolean,
): void {
  useEffect(() => {
    if (path === undefined) return;
    send({ ask: 'pages', path });
    useForecasts.setState((s) => ({ path, fault: undefined, answer: s.path === path ? s.answer : undefined }));
  }, [path, version]);
  useEffect(() => {
    if (path === undefined || !readsAhead) return;
    // While nothing else is to be done, so that the first fix does not wait for it.
    const idle = window.requestIdleCallback(() => send({ ask: 'prepare', visitor }), { timeout: 1500 });
    return () => window.cancelIdleCallback(idle);
  }, [path, version, visitor, readsAhead]);
  useEffect(() => {
    if (source?.path !== path || source?.version !== version)
      source = path === undefined ? undefined : { path, version };
    askBench({ visitor, groups, within });
  }, [path, version, visitor, groups, within]);
}

/** Has a bench forecast, unless that has been asked for just now. */
export function askBench(about: About): void {
  const asked = JSON.stringify(about);
  if (source?.asked === asked) return;
  latestBench = ++lastId;
  if (source) source.asked = asked;
  if (!source || (about.groups.length === 0 && about.within === undefined))
    useForecasts.setState({ answer: undefined });
  else send({ ask: 'bench', id: latestBench, ...about });
}
