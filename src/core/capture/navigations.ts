import { resolveUrl } from './url';

/** What tells whether a request began a page, as far as the file says. Times in ms. */
export interface NavigationFacts {
  readonly url: string;
  readonly startMs: number;
  readonly endMs: number;
  readonly method: string;
  /** Fetch Metadata, `Sec-Fetch-Dest`. */
  readonly destination?: string;
  readonly isHtml: boolean;
  readonly status: number;
  readonly redirectTo?: string;
}

/** A pause after which a page of an old browser counts as a navigation and not as a frame, in ms. */
const PAUSE_MS = 500;

/**
 * Where new pages begin among requests in the order of time: browsers that keep their log over navigations, and programs
 * that never close a page, write several loads into one. Redirects belong to the page that they lead to. With Fetch
 * Metadata (`Sec-Fetch-Dest: document`) this is certain; without, HTML that comes after a pause counts as a new page.
 * Always holds 0.
 */
export function pageStarts(requests: readonly NavigationFacts[]): number[] {
  const certain = requests.some((r) => r.destination !== undefined);
  const out = [0];
  let seen = false;
  let quietMs = -Infinity;
  const hops = new Set<string>();
  requests.forEach((r, i) => {
    const isDocument = certain ? r.destination === 'document' : r.isHtml && r.method === 'GET';
    const isHop = hops.has(r.url);
    if (isDocument && seen && !isHop && (certain || r.startMs > quietMs + PAUSE_MS)) out.push(i);
    if (isDocument) {
      seen = true;
      if (r.redirectTo && r.status >= 300 && r.status < 400) hops.add(resolveUrl(r.redirectTo, r.url) ?? '');
    }
    quietMs = Math.max(quietMs, r.endMs);
  });
  return out;
}
