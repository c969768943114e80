import { createHash } from 'node:crypto';
import { isPlainHttp, resolveUrl } from '../../core/capture/url';
import { redactHeaders, redactUrl, type Secrets } from '../../core/capture/redact';
import { shortHash } from '../../core/hash';
import { readPageFacts } from '../../core/site/pageFacts';
import { robotsDirectives } from '../../core/site/robots';
import type { Visit, VisitLink } from '../store/crawlPages';
import type { Fetched } from './client';

/** Links that are taken of one page. */
const MOST_LINKS = 50_000;

/** Headers whose values are kept: cache, security, and what the answer says of itself. */
const KEPT_HEADERS = new Set([
  'age',
  'cache-control',
  'content-encoding',
  'content-language',
  'content-length',
  'content-security-policy',
  'content-security-policy-report-only',
  'content-type',
  'cross-origin-embedder-policy',
  'cross-origin-opener-policy',
  'cross-origin-resource-policy',
  'date',
  'etag',
  'expires',
  'last-modified',
  'link',
  'location',
  'permissions-policy',
  'pragma',
  'referrer-policy',
  'retry-after',
  'server',
  'strict-transport-security',
  'vary',
  'x-content-type-options',
  'x-frame-options',
  'x-robots-tag',
]);

/** What a link leads to, in the sweep's own form. */
export type LinkJudge = (
  raw: string,
  base: string,
  nofollow: boolean,
  from: string,
) => Pick<VisitLink, 'url' | 'inside'> | undefined;

/**
 * An answer read as a visit. `links` that cannot be addresses are left out, and secrets cut from all that is kept;
 * where it redirects to stands in whole.
 */
export function visitOf(
  page: { readonly id: number; readonly url: string },
  answer: Fetched,
  context: {
    readonly judge: LinkJudge;
    readonly own: (url: string) => boolean;
    readonly protocol?: string;
    /** Known secrets: what is found to be one is added. */
    readonly secrets: Secrets;
  },
): Visit {
  const location = answer.headers['location'];
  const redirected =
    answer.status >= 300 && answer.status < 400 && location !== undefined ? resolveUrl(location, page.url) : undefined;
  const facts = answer.text !== undefined && !redirected ? readPageFacts(answer.text, page.url) : undefined;
  const headerRobots = robotsDirectives(answer.headers['x-robots-tag'] ?? '');
  const robots = [...new Set([...(facts?.robots ?? []), ...headerRobots])];
  const refresh = facts?.refresh && sameAddress(facts.refresh.url, page.url) ? undefined : facts?.refresh;
  const allNofollow = robots.includes('nofollow');
  const links: VisitLink[] = [];
  const all = facts?.links ?? [];
  const taken = all.slice(0, MOST_LINKS);
  for (const l of taken) {
    const nofollow = allNofollow || l.rel.includes('nofollow');
    const to = context.judge(l.raw, facts?.baseUrl ?? page.url, nofollow, page.url);
    if (!to) continue;
    const { raw, tag, attribute, line, column, rel, text } = l;
    links.push({ raw, tag, attribute, line, column, rel, text, url: to.url, inside: to.inside });
  }
  const { secrets } = context;
  const kept = Object.entries(answer.headers).filter(([name]) => KEPT_HEADERS.has(name));
  const headers = redactHeaders(
    kept.map(([name, value]) => ({ name, value })),
    secrets,
  );
  const cut = (url: string | undefined) => (url === undefined ? undefined : redactUrl(url, secrets));
  const visit = {
    id: page.id,
    state: 'done' as const,
    status: answer.status,
    type: answer.headers['content-type']?.split(';')[0]?.trim().toLowerCase() ?? '',
    transferBytes: answer.transferBytes,
    decodedBytes: answer.decodedBytes,
    encoding: answer.headers['content-encoding']?.toLowerCase() ?? '',
    protocol: context.protocol,
    answerMs: round(answer.answerMs),
    totalMs: round(answer.totalMs),
    fetchedAt: new Date().toISOString(),
    title: facts?.title,
    language: facts?.language,
    canonical: cut(facts?.canonical),
    robots: robots.join(', '),
    base: cut(facts?.base),
    elements: facts?.elements,
    fingerprint: facts && answer.status < 400 ? shortHash(facts.features.join(' ')) : undefined,
    features: facts?.features,
    textHash: facts?.textHash,
    bodyHash: answer.bytes ? createHash('sha256').update(answer.bytes).digest('hex').slice(0, 32) : undefined,
    details: {
      headers: Object.fromEntries(headers.map((h) => [h.name, h.value])),
      hreflang: (facts?.hreflang ?? []).map((h) => ({ ...h, url: redactUrl(h.url, secrets) })),
      charset: answer.charset,
      notes:
        all.length > taken.length
          ? [
              ...answer.notes,
              `It has ${all.length.toLocaleString('en-GB')} links: the first ${MOST_LINKS.toLocaleString('en-GB')} were taken.`,
            ]
          : answer.notes,
    },
    links,
    mentions: (facts?.mentions ?? []).map((m) => ({ ...m, url: redactUrl(m.url, secrets), own: context.own(m.url) })),
  };
  return {
    ...secrets.cutKnownIn(visit, 'content'),
    redirectTo: redirected ?? (refresh && refresh.seconds <= 5 ? refresh.url : undefined),
    redirectKind: redirected ? 'http' : refresh && refresh.seconds <= 5 ? 'meta' : undefined,
  };
}

/** A visit that brought no answer. */
export function failedVisit(page: { readonly id: number }, why: string, state: 'failed' | 'skipped' = 'failed'): Visit {
  return { id: page.id, state, why, fetchedAt: new Date().toISOString(), links: [], mentions: [] };
}

/** Seconds of a Retry-After (RFC 9110, section 10.2.3); undefined when there is none that can be read. */
export function retryAfterS(value: string | undefined, now: number): number | undefined {
  if (value === undefined) return undefined;
  if (/^\s*\d+\s*$/.test(value)) return Number(value);
  const date = Date.parse(value);
  return Number.isNaN(date) ? undefined : Math.max(0, Math.ceil((date - now) / 1000));
}

function sameAddress(a: string, b: string): boolean {
  return a.replace(/#.*$/, '') === b.replace(/#.*$/, '') && isPlainHttp(a) === isPlainHttp(b);
}

const round = (ms: number) => Math.round(ms * 10) / 10;
