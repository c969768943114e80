import { useSyncExternalStore } from 'react';

/** Where the visitor of the tool is: the path and its parameters. */
export interface Location {
  readonly path: string;
  readonly query: URLSearchParams;
}

let current = read();
const listeners = new Set<() => void>();

function read(): Location {
  return typeof window === 'undefined'
    ? { path: '/', query: new URLSearchParams() }
    : { path: window.location.pathname, query: new URLSearchParams(window.location.search) };
}

function changed(): void {
  current = read();
  for (const l of listeners) l();
}

if (typeof window !== 'undefined') window.addEventListener('popstate', changed);

/** The location; rerenders when it changes. */
export function useLocation(): Location {
  return useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => current,
  );
}

/** Goes to another screen; the visitor stays in the address, within a site also the sweep and the bench. */
export function go(to: string): void {
  const url = new URL(to, window.location.href);
  const site = (path: string) => /^\/sites\/\d+/.exec(path)?.[0];
  const keeps =
    site(url.pathname) === site(current.path) ? ['visitor', 'sweep', 'with', 'bench', 'scope', 'plan'] : ['visitor'];
  for (const keep of keeps) {
    const value = current.query.get(keep);
    if (value && !url.searchParams.has(keep) && url.pathname !== '/') url.searchParams.set(keep, value);
  }
  window.history.pushState(null, '', url);
  changed();
  window.scrollTo(0, 0);
}

/** Changes parameters of the address without a new entry in the history; null removes one. */
export function setQuery(values: Readonly<Record<string, string | null>>): void {
  const url = new URL(window.location.href);
  for (const [name, value] of Object.entries(values)) {
    if (value === null) url.searchParams.delete(name);
    else url.searchParams.set(name, value);
  }
  window.history.replaceState(null, '', url);
  changed();
}
