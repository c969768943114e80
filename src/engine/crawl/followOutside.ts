import type { Hop } from '../../core/site/hop';
import { FetchError, type CrawlClient } from './client';

/** Redirects that a browser follows at most (Fetch Standard, 4.4). */
export const MAX_HOPS = 20;

/** Follows an address of another site to its end without reading a body; the last hop is the end. */
export async function followOutside(client: CrawlClient, from: string, signal: AbortSignal): Promise<Hop[]> {
  const hops: Hop[] = [];
  const seen = new Set<string>();
  for (let url = from; hops.length < MAX_HOPS;) {
    if (seen.has(url)) return [...hops, { url, status: 0, ms: 0, kind: 'http', fault: 'leads in a circle' }];
    seen.add(url);
    try {
      const answer = await client.get(url, 'none', signal);
      hops.push({ url, status: answer.status, ms: Math.round(answer.answerMs), kind: 'http' });
      const location = answer.headers['location'];
      if (answer.status < 300 || answer.status >= 400 || location === undefined) return hops;
      url = new URL(location, url).href;
    } catch (error) {
      if (signal.aborted) throw error;
      const fault = error instanceof FetchError ? error.message : 'its redirect names no address';
      return [...hops, { url, status: 0, ms: 0, kind: 'http', fault }];
    }
  }
  return hops;
}
