/** Absolute form of a reference, or undefined when it is not a URL (WHATWG URL Standard). */
export function resolveUrl(reference: string, base: string): string | undefined {
  try {
    const { href } = new URL(reference.trim(), base);
    const mark = href.indexOf('#');
    return mark < 0 ? href : href.slice(0, mark);
  } catch {
    return undefined;
  }
}

/** Host name without port; empty for what is no URL. */
export function hostOf(url: string): string {
  return partsOf(url)?.hostname ?? '';
}

/** Checks ask for the parts of the same few addresses over and over, and parsing one is slow. */
const known = new Map<string, URL | undefined>();

function partsOf(url: string): URL | undefined {
  if (known.has(url)) return known.get(url);
  if (known.size >= 500) known.clear();
  const parts = URL.canParse(url) ? new URL(url) : undefined;
  known.set(url, parts);
  return parts;
}

/** Scheme, host and port: what a connection is shared by. */
export function originOf(url: string): string {
  return partsOf(url)?.origin ?? '';
}

/** Last path segment, or the host for a bare origin: a short name to show. */
export function fileName(url: string): string {
  const u = partsOf(url);
  if (!u) return url.slice(0, 60);
  const parts = u.pathname.split('/').filter(Boolean);
  const last = parts.at(-1);
  if (!last) return u.hostname + '/';
  return u.pathname.endsWith('/') ? last + '/' : last;
}

/** Path and query, for showing below a known host. */
export function pathOf(url: string): string {
  try {
    const u = new URL(url);
    return u.pathname + u.search;
  } catch {
    return url;
  }
}

/** True for plain http, the scheme that anybody on the way can read and change. */
export function isPlainHttp(url: string): boolean {
  return /^http:\/\//i.test(url);
}

/**
 * Hosts that are potentially trustworthy without TLS (Secure Contexts section 3.1): loopback
 * addresses and localhost. Never a fault.
 */
export function isLoopbackHost(host: string): boolean {
  return host === 'localhost' || host.endsWith('.localhost') || /^127(\.\d{1,3}){3}$/.test(host) || host === '[::1]';
}
