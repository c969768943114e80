import { useCallback, useEffect, useState } from 'react';

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
  reload(): void;
}

/**
 * Loads a path and keeps the old value until the new one is there; undefined loads nothing. A new `version` loads
 * it again.
 */
export function useResource<T>(path: string | undefined, version = ''): Resource<T> {
  const [state, setState] = useState<{ value?: T; error?: ShownError; loading: boolean }>({
    loading: path !== undefined,
  });
  const [turn, setTurn] = useState(0);
  const reload = useCallback(() => setTurn((t) => t + 1), []);
  useEffect(() => {
    if (path === undefined) return;
    let stale = false;
    setState((s) => ({ ...s, error: undefined, loading: true }));
    ask<T>(path)
      .then((value) => !stale && setState({ value, loading: false }))
      .catch((error: unknown) => !stale && setState((s) => ({ ...s, error: shownError(error), loading: false })));
    return () => {
      stale = true;
    };
  }, [path, turn, version]);
  return { ...state, reload };
}

/** Any error as one to show. */
export function shownError(error: unknown): ShownError {
  return error instanceof RequestError
    ? error.shown
    : { what: error instanceof Error ? error.message : String(error), where: 'this screen', next: 'Reload the page.' };
}
