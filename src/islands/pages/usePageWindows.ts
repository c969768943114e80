import { useCallback, useEffect, useRef, useState } from 'react';
import type { CapturesOf } from '../../engine/store/pageCaptures';
import type { PageRow } from '../../engine/store/pageList';
import { ask, shownError, type ShownError } from '../state/api';
import { served } from '../state/served';
import { WINDOW, windowOf } from './pagesPaths';

interface Window {
  readonly total: number;
  readonly rows: readonly PageRow[];
  readonly captures: CapturesOf;
}

/** A long list, of which only the windows that were looked at are loaded. */
export interface PageWindows {
  readonly total?: number;
  readonly error?: ShownError;
  /** The list belongs to an earlier question while the answer is on its way. */
  readonly stale: boolean;
  row(index: number): PageRow | undefined;
  /** Captures of a page, or of its template with the share of its pages that are alike. */
  captures(row: PageRow): { readonly ids: readonly number[]; readonly own: boolean; readonly alike: number };
  /** Loads what is about to be seen. */
  need(from: number, to: number): void;
  reload(): void;
}

/** Windows of `path` (a list of pages without offset and limit). */
export function usePageWindows(path: string): PageWindows {
  const [state, setState] = useState(() => {
    const first = served().answers[windowOf(path, 0)] as Window | undefined;
    return (
      first && { path: `${path} 0`, total: first.total, windows: new Map([[0, first]]) as ReadonlyMap<number, Window> }
    );
  });
  const [error, setError] = useState<ShownError>();
  const [turn, setTurn] = useState(0);
  const asked = useRef(new Set<number>());
  const current = useRef('');
  const load = useCallback(
    (n: number) => {
      if (asked.current.has(n)) return;
      asked.current.add(n);
      const key = current.current;
      ask<Window>(windowOf(path, n))
        .then((w) => {
          if (current.current !== key) return;
          setError(undefined);
          setState((s) => ({
            path: key,
            total: w.total,
            windows: new Map([...(s?.path === key ? s.windows : []), [n, w]]),
          }));
        })
        .catch((e: unknown) => {
          asked.current.delete(n);
          if (current.current === key) setError(shownError(e));
        });
    },
    [path],
  );
  useEffect(() => {
    current.current = `${path} ${turn}`;
    asked.current = new Set();
    load(0);
  }, [path, load, turn]);
  const windows = state?.windows;
  return {
    total: state?.total,
    error,
    stale: state !== undefined && state.path !== `${path} ${turn}`,
    row: (i) => windows?.get(Math.floor(i / WINDOW))?.rows[i % WINDOW],
    captures: (row) => {
      for (const w of windows?.values() ?? []) {
        const own = w.captures.pages[row.url];
        if (own) return { ids: own, own: true, alike: 1 };
      }
      for (const w of windows?.values() ?? []) {
        const like = row.template === null ? undefined : w.captures.templates[row.template];
        if (like) return { ids: like, own: false, alike: w.captures.alike[row.template ?? ''] ?? 0 };
      }
      return { ids: [], own: false, alike: 0 };
    },
    need: (from, to) => {
      for (let n = Math.floor(from / WINDOW); n <= Math.floor(to / WINDOW); n++) load(n);
    },
    reload: useCallback(() => setTurn((t) => t + 1), []),
  };
}
