import { keepPreviousData, QueryClient, useQuery, type Query } from '@tanstack/react-query';
import { useCallback, useSyncExternalStore } from 'react';
import { served, takeServed, type Served } from './served';

/** An error to show: what, where, and what to do next. */
export interface ShownError {
  readonly what: string;
  readonly where: string;
  readonly next: string;
}

export class RequestError extends Error {
  constructor(readonly shown: ShownError) {
    super(shown.what);
  }
}

/** Asks the API for JSON. @throws RequestError */
export async function ask<T>(path: string, init?: RequestInit): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, init);
  } catch {
    throw new RequestError({
      what: 'The server does not respond.',
      where: path,
      next: 'Check that it is running (npm start), then try again.',
    });
  }
  if (response.status === 204) return undefined as T;
  const value = (await response.json().catch(() => undefined)) as { error?: ShownError } | undefined;
  if (!response.ok)
    throw new RequestError(
      value?.error ?? { what: `The server responded with ${response.status}.`, where: path, next: 'Try again.' },
    );
  return value as T;
}

/** Something loaded from the API: undefined while it loads. */
export interface Resource<T> {
  readonly value?: T;
  readonly error?: ShownError;
  readonly loading: boolean;
  /** The value is one of another path, shown until that of this one is there. */
  readonly stale: boolean;
  /** When the value was read, in ms since 1970: it may have been read again and be the same. */
  readonly readAt?: number;
  reload(): void;
}

/** How long an answer that came with the page is as good as one that was just asked for, in ms. */
const FRESH_MS = 10_000;

/** How long islands that wake one after the other share an answer that one of them asked for, in ms. */
const READ_MS = 1000;

/** What the screens have loaded: shown at once when a screen is opened again, and read anew behind it. */
export const queries = makeQueries();

/** A store of answers of its own: on the server those of one page must not reach another one. */
export function makeQueries(): QueryClient {
  return new QueryClient({
    defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false, networkMode: 'always' } },
  });
}

/** When the page that is on its way was asked for, and when something stored was last said to have changed, in ms. */
let askedAt = 0;
let changedAt = -1;

/** Puts answers that were served with a page in the place of older ones. What changed while it came is read anew. */
function takeAnswers(into: QueryClient, { answers, at }: Served): void {
  const updatedAt = changedAt >= askedAt ? 0 : Math.min(at, Date.now());
  for (const [path, value] of Object.entries(answers)) into.setQueryData([path, ''], value, { updatedAt });
}

let takesFirst = true;

/** Puts what the first document was served with at hand, once it is all there; later ones are taken as they come. */
export function takeFirstAnswers(): void {
  if (takesFirst) takeAnswers(queries, served());
  takesFirst = false;
}

if (typeof document !== 'undefined') {
  document.addEventListener('astro:before-preparation', () => (askedAt = performance.now()));
  document.addEventListener('astro:before-swap', ({ newDocument }) => takeAnswers(queries, takeServed(newDocument)));
}

const never = () => () => undefined;

/**
 * False on the server and while an island wakes: it then has to draw what the server drew, whatever else is known here.
 */
export const useAwake = (): boolean =>
  useSyncExternalStore(
    never,
    () => true,
    () => false,
  );

/**
 * Loads a path and keeps the old value until the new one is there; undefined loads nothing. A new `version` loads
 * it again. `loading` is true as long as the value is not the one of this path.
 */
export function useResource<T>(path: string | undefined, version = ''): Resource<T> {
  const query = useQuery({
    queryKey: [path, version],
    queryFn: () => ask<T>(path ?? ''),
    enabled: path !== undefined,
    placeholderData: keepPreviousData,
    staleTime: path !== undefined && path in served().answers ? FRESH_MS : READ_MS,
  });
  const { refetch } = query;
  const reload = useCallback(() => {
    // Asked to, it would read nothing as if that were a path.
    if (path !== undefined) void refetch();
  }, [refetch, path]);
  const awake = useAwake();
  if (!awake) {
    const value = path === undefined ? undefined : (served().answers[path] as T | undefined);
    return { value, loading: path !== undefined && value === undefined, stale: false, reload };
  }
  return {
    value: query.data,
    error: query.error ? shownError(query.error) : undefined,
    loading: query.isFetching || query.isPlaceholderData,
    stale: query.isPlaceholderData,
    readAt: query.dataUpdatedAt,
    reload,
  };
}

const tabs = typeof BroadcastChannel === 'undefined' ? undefined : new BroadcastChannel('keen-lens');
tabs?.addEventListener('message', changed);

function changed(): void {
  changedAt = performance.now();
  invalidate();
}

/** Has an answer read again where it is shown, and before it is shown next. */
export const readAnew = (path: string): void => invalidate([path]);

/**
 * Has answers read again. A first one that is still on its way was asked for before what changed: it is asked for anew,
 * where the store of answers would wait for it and keep it.
 */
function invalidate(queryKey?: readonly string[]): void {
  const first = ({ state }: Query) => state.data === undefined && state.fetchStatus === 'fetching';
  void queries.cancelQueries({ queryKey, predicate: first }).then(() => queries.invalidateQueries({ queryKey }));
}

/** Says that something stored has changed: this tab and all others read anew what they show. */
export function announceChange(): void {
  changed();
  tabs?.postMessage('changed');
}

/** Any error as one to show. */
export function shownError(error: unknown): ShownError {
  return error instanceof RequestError
    ? error.shown
    : { what: error instanceof Error ? error.message : String(error), where: 'this screen', next: 'Reload the page.' };
}
