import { getDomain } from 'tldts';
import { keeps } from './patterns';
import type { SweepSettings } from './settings';

/** Why an address is not visited. */
export type OutOfScope = 'other-site' | 'not-included';

type ScopeSettings = Pick<SweepSettings, 'home' | 'subdomains' | 'include' | 'exclude'>;

/**
 * Which addresses belong to a sweep. A host and the same with `www.` are one site, http and https too; with
 * subdomains everything under the registrable domain (Public Suffix List) belongs to it. A port that is not the
 * scheme's own must agree.
 */
export function scopeOf(settings: ScopeSettings): (url: string) => OutOfScope | undefined {
  const belongs = siteTest(settings.home, settings.subdomains);
  const kept = keeps(settings.include, settings.exclude);
  return (url) => (!belongs(url) ? 'other-site' : kept(url) ? undefined : 'not-included');
}

/** True for addresses of the site of `home`. */
export function siteTest(home: string, subdomains: boolean): (url: string) => boolean {
  const own = place(home);
  if (!own) return () => false;
  const domain = subdomains ? getDomain(own.host) : null;
  const seen = new Map<string, boolean>();
  return (url) => {
    const authority = /^https?:\/\/([^/?#]+)/i.exec(url)?.[1];
    if (!authority) return false;
    let answer = seen.get(authority);
    if (answer === undefined) {
      const other = place(url);
      answer =
        other !== undefined &&
        other.port === own.port &&
        (bare(other.host) === bare(own.host) || (domain !== null && getDomain(other.host) === domain));
      if (seen.size < 10_000) seen.set(authority, answer);
    }
    return answer;
  };
}

const bare = (host: string) => host.replace(/^www\./, '');

function place(url: string): { host: string; port: string } | undefined {
  try {
    const { hostname, port } = new URL(url);
    return { host: hostname, port };
  } catch {
    return undefined;
  }
}
