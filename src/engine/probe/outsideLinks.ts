import { setMaxListeners } from 'node:events';
import type { OutsideLink } from '../../core/site/httpsVersion';
import { CrawlClient, FetchError } from '../crawl/client';
import { followRedirects } from '../crawl/followRedirects';
import { HostGate } from '../crawl/hostGate';
import { RobotsOfHosts } from '../crawl/robotsOfHosts';
import { MAX_PROBE_MS, type ProbeOptions } from './probeEntrances';

/** Pages of other sites that are looked up at most in one probe. */
export const MOST_OUTSIDE = 300;

/**
 * Looks up whether pages of other sites can be had by https. Their robots.txt is obeyed, and no header or password of
 * the site goes along.
 * @param pages absolute http addresses with the number of links to each
 * @throws the reason of the signal
 */
export async function lookUpOutside(
  pages: readonly { readonly url: string; readonly links: number }[],
  options: ProbeOptions,
): Promise<OutsideLink[]> {
  const { settings, signal } = options;
  setMaxListeners(0, signal);
  const client = new CrawlClient(
    { ...settings, ownPorts: options.ownPorts, roots: options.roots },
    () => false,
    MAX_PROBE_MS,
  );
  const gate = new HostGate(settings);
  const robots = new RobotsOfHosts(client, signal, () => undefined);
  const ask = async (url: string): Promise<Pick<OutsideLink, 'secure' | 'says'>> => {
    try {
      const own = await robots.of(url);
      if (settings.obeyRobots && own.fault === undefined && !own.allows(url))
        return { says: 'Not looked up: its robots.txt asks not to request it.' };
      const { end, fault } = await followRedirects(client, url, 'page', signal);
      if (!end) return { secure: false, says: `No https version: ${fault?.message ?? 'no answer'}.` };
      if (!end.url.startsWith('https:')) return { secure: false, says: 'The https version redirects to http.' };
      const { status } = end.answer;
      if (status >= 400 || status === 0) return { secure: false, says: `The https version responds with ${status}.` };
      return { secure: true, says: `Responds over https with ${status}: the link can be changed.` };
    } catch (error) {
      if (signal.aborted || !(error instanceof FetchError)) throw error;
      return { secure: false, says: `No https version: ${error.message}.` };
    }
  };
  try {
    return await Promise.all(
      pages.slice(0, MOST_OUTSIDE).map(async ({ url, links }) => {
        const secure = url.replace(/^http:/i, 'https:');
        return { url, links, ...(await gate.run(secure, () => ask(secure))) };
      }),
    );
  } finally {
    gate.close();
    await client.close();
  }
}
