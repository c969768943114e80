import { RefusedAddressError, type Guard } from './guard';
import { SOCKS_REPLY, SocksServer, type SocksAnswer } from './socks';

/** One connection that was asked of the proxy; times in ms of `Date.now()`. */
export interface ProxiedConnection {
  readonly host: string;
  readonly port: number;
  readonly askedAt: number;
  /** Time that the name lookup took, and the TCP handshake. */
  readonly dnsMs: number;
  readonly connectMs: number;
  /** The address that answered, and its port. */
  readonly address?: string;
  readonly addressPort?: number;
  /** Why there is no connection: a code of `node:net` or `node:dns`, or `REFUSED_BY_GUARD`. */
  readonly fault?: string;
}

/** The code of a connection that the guard refused. */
export const REFUSED_BY_GUARD = 'REFUSED_BY_GUARD';

/**
 * A SOCKS proxy on loopback that resolves names and connects itself, to what a guard lets through. A browser
 * that has no other way out cannot be led to private addresses: not by redirects, scripts, WebSockets or changing names.
 */
export class FilterProxy {
  readonly connections: ProxiedConnection[] = [];
  private socks!: SocksServer;

  private constructor(private readonly guard: Guard) {}

  /** Starts a proxy on a free port. */
  static async start(guard: Guard): Promise<FilterProxy> {
    const proxy = new FilterProxy(guard);
    proxy.socks = await SocksServer.start((host, port) => proxy.connect(host, port));
    return proxy;
  }

  get port(): number {
    return this.socks.port;
  }

  /** Ends the proxy and all that goes through it. */
  close(): Promise<void> {
    return this.socks.close();
  }

  private async connect(host: string, port: number): Promise<SocksAnswer> {
    const askedAt = Date.now();
    let resolvedAt = askedAt;
    const note = (more: Partial<ProxiedConnection>) =>
      this.connections.push({
        host,
        port,
        askedAt,
        dnsMs: resolvedAt - askedAt,
        connectMs: Date.now() - resolvedAt,
        ...more,
      });
    try {
      const server = await this.guard.connect(host, port, () => (resolvedAt = Date.now()));
      note({ address: server.remoteAddress, addressPort: server.remotePort });
      return { stream: server };
    } catch (error) {
      const refused = error instanceof RefusedAddressError;
      const code = refused ? REFUSED_BY_GUARD : ((error as NodeJS.ErrnoException).code ?? 'EFAILED');
      note({ fault: code });
      return {
        refused: refused
          ? SOCKS_REPLY.notAllowed
          : code === 'ECONNREFUSED'
            ? SOCKS_REPLY.refused
            : SOCKS_REPLY.hostUnreachable,
      };
    }
  }
}
