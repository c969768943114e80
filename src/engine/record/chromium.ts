import { execFile } from 'node:child_process';
import fs from 'node:fs';
import path from 'node:path';
import { promisify } from 'node:util';
import { InputError } from '../../core/capture/errors';
import { hostInAddress, readHostMap, type MappedHost } from '../net/hostMap';

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

/** Its version, as it tells. @throws InputError when there is none */
export async function chromiumVersion(): Promise<string> {
  const { stdout } = await promisify(execFile)(findChromium(), ['--version'], { timeout: 20_000 });
  return /\d+(\.\d+)+/.exec(stdout)?.[0] ?? stdout.trim().slice(0, 80);
}

/** How a browser reaches the network. */
export interface WayOut {
  /**
   * Port of a filtering proxy on loopback: everything but mapped hosts goes through it, and names are resolved there
   * only.
   */
  readonly proxyPort?: number;
  /** No name but the mapped ones is resolved. */
  readonly mappedOnly?: boolean;
  /** Ports that must not be reached on any host: our own server listens there. */
  readonly ownPorts?: readonly number[];
}

/** Switches for a quiet, reproducible browser: nothing in the background, no upgrades behind our back. */
export function browserSwitches(
  mapHosts: readonly string[],
  acceptAnyCertificate = false,
  { proxyPort, mappedOnly, ownPorts = [] }: WayOut = {},
): string[] {
  const maps = mapHosts.map(readHostMap);
  const rules = [
    ...ownPorts.map((port) => `MAP *:${port} ~NOTFOUND`),
    ...maps.map(resolverRule),
    ...(mappedOnly ? ['MAP * ~NOTFOUND'] : []),
    ...(proxyPort === undefined ? [] : ['MAP * ~NOTFOUND', 'EXCLUDE 127.0.0.1']),
  ];
  // What was mapped on purpose is reached directly, and measured as it is.
  const direct = ['<-loopback>', ...maps.map(fromOf)];
  return [
    // By switch, not by protocol: the protocol lets each handshake fail once first and doubles its time.
    ...(acceptAnyCertificate ? ['--ignore-certificate-errors'] : []),
    ...(proxyPort === undefined
      ? []
      : [`--proxy-server=socks5://127.0.0.1:${proxyPort}`, `--proxy-bypass-list=${direct.join(';')}`]),
    // Media connections that no proxy carries would show and reach addresses of this network.
    '--webrtc-ip-handling-policy=disable_non_proxied_udp',
    '--disable-quic',
    '--disable-features=HttpsUpgrades,HttpsFirstBalancedModeAutoEnable,Translate,MediaRouter,OptimizationHints,IsolateOrigins,site-per-process',
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

const fromOf = ({ fromHost, fromPort }: MappedHost) =>
  `${hostInAddress(fromHost)}${fromPort === undefined ? '' : `:${fromPort}`}`;

function resolverRule(mapped: MappedHost): string {
  const { toHost, toPort } = mapped;
  return `MAP ${fromOf(mapped)} ${hostInAddress(toHost)}${toPort === undefined ? '' : `:${toPort}`}`;
}
