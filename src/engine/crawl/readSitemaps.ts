import { readSitemap } from '../../core/site/sitemap';
import type { CrawlClient } from './client';
import { followRedirects } from './followRedirects';

/** Sitemap files that are read at most. */
export const MAX_SITEMAPS = 200;

/** A page that a sitemap names. */
export interface SitemapPage {
  readonly url: string;
  readonly sitemap: string;
}

/**
 * Reads sitemaps and the ones that they name, each once. `guess` are addresses that nothing promised: a 404
 * there is no fault.
 */
export async function readSitemaps(
  client: CrawlClient,
  named: readonly string[],
  guess: readonly string[],
  options: {
    readonly signal: AbortSignal;
    readonly maxPages: number;
    onFault(url: string, what: string): void;
    onRead(url: string): void;
  },
): Promise<SitemapPage[]> {
  const pages = new Map<string, SitemapPage>();
  const queue = [...new Set([...named, ...guess])];
  const seen = new Set(queue);
  const promised = new Set(named);
  let files = 0;
  for (let url = queue.shift(); url !== undefined && pages.size < options.maxPages; url = queue.shift()) {
    options.signal.throwIfAborted();
    if (++files > MAX_SITEMAPS) {
      options.onFault(url, `More than ${MAX_SITEMAPS} sitemap files: the rest was left out.`);
      break;
    }
    options.onRead(url);
    const { hops, end, fault } = await followRedirects(client, url, 'text', options.signal);
    if (!end) {
      if (promised.has(url)) options.onFault(url, `The sitemap cannot be read: ${fault?.message ?? 'no answer'}.`);
      continue;
    }
    const { status, text } = end.answer;
    if (status !== 200) {
      if (promised.has(url)) options.onFault(url, `The sitemap answers ${status}.`);
      continue;
    }
    // Two addresses that lead to one file are read once.
    if (end.url !== url && seen.has(end.url)) continue;
    for (const hop of hops) seen.add(hop.url);
    const sitemap = readSitemap(text ?? '', end.url);
    if (sitemap.fault && (promised.has(url) || sitemap.pages.length > 0))
      options.onFault(url, `The sitemap has a fault: ${sitemap.fault}.`);
    for (const page of sitemap.pages) {
      if (!pages.has(page.url)) pages.set(page.url, { url: page.url, sitemap: end.url });
    }
    for (const more of sitemap.sitemaps) {
      promised.add(more);
      if (!seen.has(more)) queue.push(more);
      seen.add(more);
    }
  }
  return [...pages.values()];
}
