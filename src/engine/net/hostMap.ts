import { InputError } from '../../core/capture/errors';

/** One line of a host map: where a host, or one port of it, is really reached. */
export interface MappedHost {
  /** In lower case and without brackets; `*.` in front stands for every name below. */
  readonly fromHost: string;
  readonly fromPort?: number;
  /** A name or an address without brackets. */
  readonly toHost: string;
  readonly toPort?: number;
}

const LINE = /^(\[[0-9a-f:.]+\]|[a-z0-9.*-]+)(?::(\d+))?=(\[[0-9a-f:]+\]|[a-z0-9.-]+)(?::(\d+))?$/i;

/** Reads `HOST[:PORT]=IP[:PORT]`, IPv6 addresses in brackets (RFC 3986, 3.2.2). @throws InputError */
export function readHostMap(text: string): MappedHost {
  const m = LINE.exec(text.trim());
  if (!m)
    throw new InputError(
      `"${text.trim().slice(0, 200)}" is not a host map.`,
      'host map',
      'Write HOST=IP or HOST:PORT=IP:PORT.',
    );
  return {
    fromHost: bareHost(m[1] ?? '').toLowerCase(),
    fromPort: m[2] === undefined ? undefined : Number(m[2]),
    toHost: bareHost(m[3] ?? ''),
    toPort: m[4] === undefined ? undefined : Number(m[4]),
  };
}

/** The first line that speaks of a host and port. */
export function mappedHost(map: readonly MappedHost[], host: string, port: number): MappedHost | undefined {
  const name = bareHost(host).toLowerCase();
  return map.find(
    (m) =>
      (m.fromHost === name || (m.fromHost.startsWith('*.') && name.endsWith(m.fromHost.slice(1)))) &&
      (m.fromPort === undefined || m.fromPort === port),
  );
}

/** A host as it stands in addresses: an IPv6 address in brackets (RFC 3986, 3.2.2). */
export const hostInAddress = (host: string): string => (host.includes(':') ? `[${host}]` : host);

/** A host without the brackets of an IPv6 address. */
export const bareHost = (host: string): string => host.replace(/^\[|\]$/g, '');
