import { compileRobots } from './robotsRules';
import { ROBOTS_NAME } from './settings';
import { resolveUrl } from '../capture/url';

/** What a robots.txt says to us. */
export interface Robots {
  /** Why it could not be had, where the host itself did not answer. */
  readonly fault?: string;
  /** RFC 9309, section 2.2.2: the longest matching rule wins. */
  allows(url: string): boolean;
  /** Absolute addresses of sitemaps. */
  readonly sitemaps: readonly string[];
  /** Seconds between requests that it asks for; no part of RFC 9309, but honoured. */
  readonly delayS?: number;
}

/** Octets of a robots.txt that count (RFC 9309, section 2.5). */
export const MAX_ROBOTS_BYTES = 512_000;

/** Reads a robots.txt. */
export function readRobots(url: string, text: string): Robots {
  const rules = compileRobots(text.slice(0, MAX_ROBOTS_BYTES), ROBOTS_NAME);
  return { ...rules, sitemaps: rules.sitemaps.flatMap((s) => resolveUrl(s, url) ?? []) };
}

/**
 * What applies when robots.txt did not come (RFC 9309, section 2.3.1): 4xx allows everything, an error of the
 * server or no answer nothing.
 */
export function robotsWithout(status: number | undefined, fault?: string): Robots {
  const unavailable = status !== undefined && status >= 400 && status < 500;
  return { allows: () => unavailable, sitemaps: [], fault };
}

/** One directive list of a robots meta element or X-Robots-Tag header, for us or for all. */
export function robotsDirectives(value: string): string[] {
  const own = /^\s*([a-z0-9_-]+)\s*:(?!\/)(.*)$/i.exec(value);
  const valued = own && /^(unavailable_after|max-snippet|max-image-preview|max-video-preview)$/i.test(own[1] ?? '');
  if (own && !valued && own[1]?.toLowerCase() !== ROBOTS_NAME.toLowerCase()) return [];
  return (own && !valued ? (own[2] ?? '') : value)
    .split(',')
    .map((d) => d.trim().toLowerCase())
    .filter(Boolean)
    .flatMap((d) => (d === 'none' ? ['noindex', 'nofollow'] : [d]));
}
