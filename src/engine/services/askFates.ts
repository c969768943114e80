import { fatesOf, foldRows, otherForms, type FateReport } from '../../core/site/fates';
import type { Probe } from '../../core/site/entrances';
import type { OutsideList } from '../../core/site/lists/outsideList';
import type { LivingPage } from '../../core/site/nearest';
import { siteTest } from '../../core/site/scope';
import { ownOrigins } from '../../core/site/ownOrigin';
import { CrawlClient } from '../crawl/client';
import { readSitemaps } from '../crawl/readSitemaps';
import { RobotsOfHosts } from '../crawl/robotsOfHosts';
import { MAX_PROBE_MS, type ProbeOptions } from '../probe/probeEntrances';
import { probeAddresses } from '../probe/probeAddresses';

/**
 * Asks a site for every address of a list and tells what happens to each today. Its sitemaps and the list itself say
 * which pages are alive.
 * @throws the reason of the signal
 */
export async function askFates(
  list: OutsideList,
  options: ProbeOptions,
  known: ReadonlyMap<string, Probe> = new Map(),
  alive: readonly LivingPage[] = [],
): Promise<FateReport> {
  const { settings } = options;
  const own = siteTest(settings.home, true);
  const probes = new Map(known);
  const kept = new Set<string>();
  const client = new CrawlClient(
    { ...settings, ownPorts: options.ownPorts, roots: options.roots },
    ownOrigins([settings.home]),
    MAX_PROBE_MS,
  );
  try {
    return await asked();
  } finally {
    await client.close();
  }

  async function asked(): Promise<FateReport> {
    const robots = new RobotsOfHosts(client, options.signal, () => undefined);
    const ask = async (addresses: Iterable<string>) => {
      const wanted: string[] = [];
      for (const address of new Set(addresses)) {
        if (probes.has(address)) continue;
        if (settings.obeyRobots && (await asksNotTo(robots, address))) kept.add(address);
        else wanted.push(address);
      }
      await probeAddresses(wanted, options, (address, probe) => probes.set(address, probe));
    };
    await ask([settings.home]);
    const home = probes.get(settings.home)?.end?.url ?? settings.home;
    const listed = foldRows(list.rows)
      .map((r) => r.address)
      .filter(own);
    await ask(listed);
    // Only where an address answers by itself does its other form matter.
    const answering = listed.filter((a) => {
      const end = probes.get(a)?.end;
      return end && end.status < 300 && otherForms(end.url, home).length > 0;
    });
    await ask(answering.flatMap((a) => otherForms(a, home)));
    const living = new Map<string, LivingPage>();
    for (const page of [...alive, ...(await namedBySitemaps(options))]) living.set(page.url, page);
    for (const { end, page } of probes.values())
      if (end && end.status >= 200 && end.status < 300) living.set(end.url, { url: end.url, title: page?.title });
    const gone = new Set([...probes].filter(([, p]) => (p.end?.status ?? 0) >= 400).map(([address]) => address));
    return fatesOf(
      list.rows,
      { home, own },
      (address) => probes.get(address) ?? (kept.has(address) ? 'robots' : undefined),
      [...living.values()].filter((p) => !gone.has(p.url)),
    );
  }
}

/** Whether a robots.txt that was read asks not to request an address; a host that gives none is told of by the probe. */
async function asksNotTo(robots: RobotsOfHosts, address: string): Promise<boolean> {
  const own = await robots.of(address);
  return own.fault === undefined && !own.allows(address);
}

/** Pages that the site's sitemaps name. */
export async function namedBySitemaps({ settings, ownPorts, roots, signal }: ProbeOptions): Promise<LivingPage[]> {
  const client = new CrawlClient({ ...settings, ownPorts, roots }, ownOrigins([settings.home]), MAX_PROBE_MS);
  try {
    const { origin } = new URL(settings.home);
    const robots = await new RobotsOfHosts(client, signal, () => undefined).of(settings.home);
    return await readSitemaps(client, robots.sitemaps, [`${origin}/sitemap.xml`], {
      signal,
      maxPages: 50_000,
      onFault: () => undefined,
      onRead: () => undefined,
    });
  } finally {
    await client.close();
  }
}
