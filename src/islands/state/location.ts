import { useSyncExternalStore } from 'react';
import { served } from './served';

/** Where the visitor of the tool is: the path and its parameters. */
export interface Location {
  readonly path: string;
  readonly query: URLSearchParams;
}

const locationOf = (url: URL): Location => ({ path: url.pathname, query: url.searchParams });

/** Parameters that stay from screen to screen: of the whole tool, and within a site. */
const KEPT = ['visitor'];
const KEPT_IN_SITE = ['visitor', 'sweep', 'with', 'bench', 'scope', 'plan'];

let current: Location | undefined;
let asServed: { url: string; location: Location } | undefined;
const listeners = new Set<() => void>();

function now(): Location {
  return (current ??= locationOf(new URL(window.location.href)));
}

/** The address that the page was drawn for: what a first render has to show too. */
function first(): Location {
  const { url } = served();
  if (asServed?.url !== url) asServed = { url, location: locationOf(new URL(url)) };
  return asServed.location;
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** Takes over the address of the browser, or one that it is about to have; `tell` lets what is shown follow. */
export function moved(to: URL, tell: boolean): void {
  current = locationOf(to);
  if (tell) for (const l of listeners) l();
}

if (typeof window !== 'undefined') {
  document.addEventListener('astro:before-swap', (event) => moved(event.to, false));
  document.addEventListener('astro:after-swap', () => moved(new URL(window.location.href), true));
}

/** The location; rerenders when it changes. */
export function useLocation(): Location {
  return useSyncExternalStore(subscribe, now, first);
}

/** An address of the tool with what stays from screen to screen. A pure function. */
export function withKept(to: string, { path, query }: Location): string {
  const url = new URL(to, 'http://localhost');
  const site = (p: string) => /^\/sites\/\d+/.exec(p)?.[0];
  if (url.pathname === '/') return to;
  for (const name of site(url.pathname) === site(path) ? KEPT_IN_SITE : KEPT) {
    const value = query.get(name);
    if (value && !url.searchParams.has(name)) url.searchParams.set(name, value);
  }
  return url.pathname + url.search + url.hash;
}

/** Makes addresses for links: with what stays from screen to screen. */
export function useHref(): (to: string) => string {
  const location = useLocation();
  return (to) => withKept(to, location);
}

/** Goes to another screen; the visitor stays in the address, within a site also the sweep and the bench. */
export function go(to: string): void {
  const url = withKept(to, now());
  void import('astro:transitions/client').then(({ navigate }) => navigate(url));
}

/** Changes parameters of the address without a new entry in the history; null removes one. */
export function setQuery(values: Readonly<Record<string, string | null>>): void {
  const url = new URL(window.location.href);
  for (const [name, value] of Object.entries(values)) {
    if (value === null) url.searchParams.delete(name);
    else url.searchParams.set(name, value);
  }
  // The client router keeps its own notes in the state.
  window.history.replaceState(window.history.state, '', url);
  moved(url, true);
}
