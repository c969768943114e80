import dns from 'node:dns/promises';
import net from 'node:net';
import os from 'node:os';
import { bareHost, mappedHost, readHostMap, type MappedHost } from './hostMap';
import { isPrivateAddress } from './privateAddress';

/** Whom a sweep or a recording may connect to. */
export interface GuardOptions {
  /** Also loopback, link-local and private addresses. */
  readonly allowPrivate: boolean;
  /** `HOST[:PORT]=IP[:PORT]`: what was mapped on purpose may be private. */
  readonly mapHosts: readonly string[];
  /** Ports of this machine that are never connected to: our own server listens there. */
  readonly ownPorts?: readonly number[];
}

/** Where to connect, in the order in which to try. */
export interface CheckedPlace {
  readonly addresses: readonly string[];
  readonly port: number;
}

/** An address that must not be asked; the message is for people. */
export class RefusedAddressError extends Error {
  constructor(
    readonly host: string,
    readonly address: string,
    readonly own: boolean,
  ) {
    super(own ? `${host} leads to Keen Lens itself (${address})` : `${host} leads to the private address ${address}`);
  }
}

/** Longest wait for one address to take a connection, in ms. */
const CONNECT_MS = 15_000;

/**
 * Decides whom may be connected to. Names are resolved here and connections made to the very addresses that were
 * checked: a name that answers differently the second time (DNS rebinding) gains nothing.
 */
export class Guard {
  private readonly map: readonly MappedHost[];

  /** @throws InputError for a line that is no host map */
  constructor(private readonly options: GuardOptions) {
    this.map = options.mapHosts.map(readHostMap);
  }

  /**
   * The addresses of a host and port.
   * @throws RefusedAddressError, or the error of the name lookup
   */
  async resolve(host: string, port: number): Promise<CheckedPlace> {
    const mapped = mappedHost(this.map, host, port);
    const name = mapped?.toHost ?? bareHost(host);
    const place = mapped?.toPort ?? port;
    const addresses = net.isIP(name)
      ? [name]
      : (await dns.lookup(name, { all: true, order: 'verbatim' })).map((a) => a.address);
    for (const address of addresses) this.check(host, address, place, mapped !== undefined);
    return { addresses, port: place };
  }

  /**
   * A connection to a host: to the first of its addresses that takes it.
   * @throws RefusedAddressError, or the error of the lookup or of the last address
   */
  async connect(host: string, port: number, onResolved?: (place: CheckedPlace) => void): Promise<net.Socket> {
    const place = await this.resolve(host, port);
    onResolved?.(place);
    let last: unknown = new Error(`${host} has no address`);
    for (const address of place.addresses) {
      try {
        return await connectTo(address, place.port);
      } catch (error) {
        last = error;
      }
    }
    throw last;
  }

  private check(host: string, address: string, port: number, mapped: boolean): void {
    if (this.options.ownPorts?.includes(port) && isThisMachine(address))
      throw new RefusedAddressError(host, address, true);
    if (!this.options.allowPrivate && !mapped && isPrivateAddress(address))
      throw new RefusedAddressError(host, address, false);
  }
}

function connectTo(address: string, port: number): Promise<net.Socket> {
  return new Promise((done, fail) => {
    const socket = net.connect({ host: address, port, noDelay: true });
    const timer = setTimeout(() => {
      socket.destroy();
      fail(Object.assign(new Error(`${address} does not answer`), { code: 'ETIMEDOUT' }));
    }, CONNECT_MS);
    socket.once('connect', () => {
      clearTimeout(timer);
      socket.removeListener('error', fail);
      done(socket);
    });
    socket.once('error', fail);
    socket.once('error', () => clearTimeout(timer));
  });
}

/** True for loopback, the unspecified address and every address of this machine's interfaces. */
export function isThisMachine(address: string): boolean {
  const plain = address.replace(/^::ffff:(?=\d+\.)/i, '').replace(/%.*$/, '');
  if (/^127\.|^0\.0\.0\.0$|^::1?$/.test(plain)) return true;
  return Object.values(os.networkInterfaces()).some((list) => list?.some((i) => i.address === plain));
}
