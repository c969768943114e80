import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Visitor } from '../../core/load/visitors';
import type {
  Answer,
  Ask,
  BenchAnswer,
  BenchPage,
  ComparedAnswer,
  ComparedSet,
  StaircaseAnswer,
  StoryAnswer,
  TargetAnswer,
  TargetFigure,
} from '../../workers/benchMessages';

/** Answers of the workers, and questions that may be put to them. */
export interface Forecasts {
  readonly answer?: BenchAnswer;
  readonly staircase?: StaircaseAnswer;
  /** The workers have the pages: they can be asked. */
  readonly ready: boolean;
  story(captureId: number): Promise<StoryAnswer>;
  /** The best order of groups. */
  order(groups: readonly string[]): Promise<readonly string[]>;
  /** The smallest set that brings a figure to so many ms. */
  target(figure: TargetFigure, targetMs: number): Promise<TargetAnswer>;
  compare(sets: readonly ComparedSet[]): Promise<readonly ComparedAnswer[]>;
}

/** What one worker is asked as long as nothing shorter waits for it: these may take a second. */
const LONG = new Set<Ask['ask']>(['staircase', 'order', 'target', 'compare']);

/**
 * Keeps two workers with the pages and asks them whenever visitor, pages or bench change: what takes a second must not
 * keep the bench waiting.
 */
export function useForecasts(
  pages: readonly BenchPage[],
  visitor: Visitor,
  chosen: readonly string[],
  within: readonly number[] | undefined,
): Forecasts {
  const quick = useRef<Worker | undefined>(undefined);
  const slow = useRef<Worker | undefined>(undefined);
  const ids = useRef(0);
  const waiting = useRef(new Map<number, (value: never) => void>());
  const latest = useRef({ bench: 0, staircase: 0 });
  // Answers carry the visitor they are for: figures of another one are never shown.
  const [answer, setAnswer] = useState<{ visitor: string; value: BenchAnswer }>();
  const [staircase, setStaircase] = useState<{ visitor: string; value: StaircaseAnswer }>();
  const [posted, setPosted] = useState<readonly BenchPage[]>();
  const send = useCallback((ask: Ask) => {
    if (!LONG.has(ask.ask)) quick.current?.postMessage(ask);
    if (LONG.has(ask.ask) || ask.ask === 'pages') slow.current?.postMessage(ask);
  }, []);

  useEffect(() => {
    const both = [0, 1].map(
      () => new Worker(new URL('../../workers/benchWorker.ts', import.meta.url), { type: 'module' }),
    );
    [quick.current, slow.current] = both;
    const onMessage = (event: MessageEvent<Answer>) => {
      const { data } = event;
      if (data.answer === 'bench') {
        if (data.id === latest.current.bench) setAnswer({ visitor: data.visitor, value: data.value });
      } else if (data.answer === 'staircase') {
        if (data.id === latest.current.staircase) setStaircase({ visitor: data.visitor, value: data.value });
      } else {
        waiting.current.get(data.id)?.(data.value as never);
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
    send({ ask: 'bench', id: latest.current.bench, visitor, groups: chosen, within });
  }, [pages, visitor, chosen, within, send]);
  useEffect(() => {
    if (pages.length === 0) return;
    latest.current.staircase = ++ids.current;
    send({ ask: 'staircase', id: latest.current.staircase, visitor });
  }, [pages, visitor, send]);

  const put = useCallback(
    <T>(question: (id: number) => Ask) =>
      new Promise<T>((done) => {
        const id = ++ids.current;
        waiting.current.set(id, done as (value: never) => void);
        send(question(id));
      }),
    [send],
  );
  const questions = useMemo(
    () => ({
      story: (captureId: number) =>
        put<StoryAnswer>((id) => ({ ask: 'story', id, visitor, groups: chosen, captureId })),
      order: (groups: readonly string[]) =>
        put<readonly string[]>((id) => ({ ask: 'order', id, visitor, groups, within })),
      target: (figure: TargetFigure, targetMs: number) =>
        put<TargetAnswer>((id) => ({ ask: 'target', id, visitor, figure, targetMs, within })),
      compare: (sets: readonly ComparedSet[]) => put<readonly ComparedAnswer[]>((id) => ({ ask: 'compare', id, sets })),
    }),
    [put, visitor, chosen, within],
  );
  return {
    answer: answer?.visitor === visitor.id ? answer.value : undefined,
    staircase: staircase?.visitor === visitor.id ? staircase.value : undefined,
    ready: posted === pages,
    ...questions,
  };
}
