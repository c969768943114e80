import { setMaxListeners } from 'node:events';
import type { Probe } from '../../core/site/entrances';
import { ownOrigins } from '../../core/site/ownOrigin';
import { CrawlClient } from '../crawl/client';
import { HostGate } from '../crawl/hostGate';
import { followProbe } from './followProbe';
import { MAX_PROBE_MS, type ProbeOptions } from './probeEntrances';

/** Most requests that wait for their turn at a time. */
const AT_ONCE = 256;

/**
 * Follows each of many addresses to where it ends, over whichever address family its host has.
 * @throws the reason of the signal
 */
export async function probeAddresses(
  addresses: readonly string[],
  options: ProbeOptions,
  onProbe: (address: string, probe: Probe) => void,
): Promise<void> {
  const { settings, signal } = options;
  setMaxListeners(0, signal);
  const connect = { ...settings, ownPorts: options.ownPorts, roots: options.roots };
  const client = new CrawlClient(connect, ownOrigins([settings.home]), MAX_PROBE_MS);
  const gate = new HostGate(settings);
  const run = <T>(url: string, task: () => Promise<T>) => gate.run(url, task);
  let next = 0;
  let done = 0;
  const work = async () => {
    for (let address = addresses[next++]; address !== undefined; address = addresses[next++]) {
      signal.throwIfAborted();
      const { probe, pause } = await followProbe({ first: client, next: client }, address, 'IPv4', run, signal);
      if (pause) gate.pause(pause.url, pause.seconds * 1000);
      onProbe(address, probe);
      options.onProgress?.(++done, addresses.length, address);
    }
  };
  try {
    await Promise.all(Array.from({ length: Math.min(AT_ONCE, addresses.length) }, work));
  } finally {
    gate.close();
    await client.close();
  }
}
