import fs from 'node:fs';
import path from 'node:path';
import { InputError } from '../../core/capture/errors';

/**
 * Finds a Chromium on this machine: KEEN_LENS_CHROMIUM, else the usual names on the PATH.
 * @throws InputError that says how to get one.
 */
export function findChromium(): string {
  const stated = process.env.KEEN_LENS_CHROMIUM;
  const names = ['chromium', 'chromium-browser'];
  const folders = (process.env.PATH ?? '').split(path.delimiter);
  const candidates = [...(stated ? [stated] : []), ...folders.flatMap((f) => names.map((n) => path.join(f, n)))];
  const found = candidates.find((file) => fs.existsSync(file));
  if (found) return found;
  throw new InputError(
    'No Chromium was found on this machine.',
    stated ?? 'PATH',
    'Install it (Debian: apt-get install chromium) or set KEEN_LENS_CHROMIUM to its path.',
  );
}

/** Switches for a quiet, reproducible browser: nothing in the background, no upgrades behind our back. */
export function browserSwitches(mapHosts: readonly string[], acceptAnyCertificate = false): string[] {
  const rules = mapHosts.map(mapRule);
  return [
    // By switch, not by protocol: the protocol lets each handshake fail once first and doubles its time.
    ...(acceptAnyCertificate ? ['--ignore-certificate-errors'] : []),
    '--disable-quic',
    '--disable-features=HttpsUpgrades,HttpsFirstBalancedModeAutoEnable,Translate,MediaRouter,OptimizationHints,IsolateOrigins,site-per-process,LocalNetworkAccessChecks',
    '--disable-site-isolation-trials',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--no-first-run',
    '--force-color-profile=srgb',
    ...(process.getuid?.() === 0 ? ['--no-sandbox'] : []),
    ...(rules.length > 0 ? [`--host-resolver-rules=${rules.join(',')}`] : []),
  ];
}

/** `HOST[:PORT]=IP[:PORT]` to a resolver rule. @throws InputError */
export function mapRule(text: string): string {
  const m = /^([a-z0-9.*-]+(?::\d+)?)=(\[[0-9a-f:]+\]|[a-z0-9.-]+)(:\d+)?$/i.exec(text.trim());
  if (!m)
    throw new InputError(
      `"${text.trim().slice(0, 200)}" is not a host map.`,
      'host map',
      'Write HOST=IP or HOST:PORT=IP:PORT.',
    );
  return `MAP ${m[1]} ${m[2]}${m[3] ?? ''}`;
}
