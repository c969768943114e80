import CachePolicy from 'http-cache-semantics';
import { header, type Load } from '../capture/capture';

/** What a response says about being cached (RFC 9111). */
export interface StatedPolicy {
  /** Seconds for which it may be used without asking; undefined when nothing is said. */
  readonly freshS?: number;
  readonly mayStore: boolean;
  readonly validator: boolean;
  /** RFC 8246. */
  readonly immutable: boolean;
}

/** Reads Cache-Control, Expires and validators as a browser's own cache does (RFC 9111, 3, 4.2.1 and 5; RFC 9110, 8.8). */
export function cachePolicy(load: Pick<Load, 'responseHeaders'>): StatedPolicy {
  const control = (header(load.responseHeaders, 'cache-control') ?? '').toLowerCase();
  const headers: Record<string, string> = {};
  for (const { name, value } of load.responseHeaders) {
    const key = name.toLowerCase();
    headers[key] = key in headers ? `${headers[key] ?? ''}, ${value}` : value;
  }
  // Vary and the like concern later requests, which are taken to be the same.
  delete headers.vary;
  const policy = new CachePolicy(
    { url: '/', method: 'GET', headers: {} },
    { status: 200, headers },
    { shared: false, cacheHeuristic: 0, immutableMinTimeToLive: 0 },
  );
  const stated = /(^|[,\s])(max-age|no-cache|no-store)\b/.test(control) || headers.expires !== undefined;
  return {
    freshS: stated ? policy.maxAge() : undefined,
    mayStore: !/(^|[,\s])no-store\b/.test(control),
    validator: headers.etag !== undefined || headers['last-modified'] !== undefined,
    immutable: /(^|[,\s])immutable\b/.test(control),
  };
}
