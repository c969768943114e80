import net from 'node:net';
import { RefusedAddressError, type Guard } from './guard';

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

/** Replies of a SOCKS server (RFC 1928, 6). */
const REPLY = {
  done: 0,
  failed: 1,
  notAllowed: 2,
  hostUnreachable: 4,
  refused: 5,
  notSupported: 7,
  badAddress: 8,
} as const;
/** A greeting or a request takes this long at most. */
const HANDSHAKE_MS = 10_000;

/**
 * A SOCKS proxy (RFC 1928) on loopback that resolves names and connects itself, to what a guard lets through. A browser
 * that has no other way out cannot be led to private addresses: not by redirects, scripts, WebSockets or changing names.
 */
export class FilterProxy {
  readonly connections: ProxiedConnection[] = [];
  private readonly open = new Set<net.Socket>();
  private readonly server: net.Server;

  private constructor(private readonly guard: Guard) {
    this.server = net.createServer((socket) => this.serve(socket));
  }

  /** Starts a proxy on a free port. */
  static async start(guard: Guard): Promise<FilterProxy> {
    const proxy = new FilterProxy(guard);
    await new Promise<void>((done, fail) => {
      proxy.server.once('error', fail);
      proxy.server.listen(0, '127.0.0.1', done);
    });
    return proxy;
  }

  get port(): number {
    return (this.server.address() as net.AddressInfo).port;
  }

  /** Ends the proxy and all that goes through it. */
  async close(): Promise<void> {
    for (const socket of this.open) socket.destroy();
    await new Promise<void>((done) => this.server.close(() => done()));
  }

  private serve(client: net.Socket): void {
    this.open.add(client);
    client.setNoDelay(true);
    client.once('close', () => this.open.delete(client));
    client.on('error', () => client.destroy());
    client.setTimeout(HANDSHAKE_MS, () => client.destroy());
    let waiting = Buffer.alloc(0);
    let greeted = false;
    const read = (chunk: Buffer) => {
      waiting = Buffer.concat([waiting, chunk]);
      if (!greeted) {
        const methods = waiting[1] ?? 0;
        if (waiting.length < 2 || waiting.length < 2 + methods) return;
        if (waiting[0] !== 5 || !waiting.subarray(2, 2 + methods).includes(0))
          return void client.end(Buffer.from([5, 0xff]));
        greeted = true;
        waiting = waiting.subarray(2 + methods);
        client.write(Buffer.from([5, 0]));
      }
      const request = readRequest(waiting);
      if (request === undefined) return;
      client.removeListener('data', read);
      client.pause();
      client.setTimeout(0);
      if (request.reply !== undefined) return void client.end(replyOf(request.reply));
      if (request.rest.length > 0) client.unshift(request.rest);
      void this.relay(client, request.host, request.port);
    };
    client.on('data', read);
  }

  private async relay(client: net.Socket, host: string, port: number): Promise<void> {
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
    let server: net.Socket;
    try {
      server = await this.guard.connect(host, port, () => (resolvedAt = Date.now()));
    } catch (error) {
      const refused = error instanceof RefusedAddressError;
      const code = refused ? REFUSED_BY_GUARD : ((error as NodeJS.ErrnoException).code ?? 'EFAILED');
      note({ fault: code });
      const reply = refused ? REPLY.notAllowed : code === 'ECONNREFUSED' ? REPLY.refused : REPLY.hostUnreachable;
      client.end(replyOf(reply));
      return;
    }
    note({ address: server.remoteAddress, addressPort: server.remotePort });
    this.open.add(server);
    server.once('close', () => {
      this.open.delete(server);
      client.destroy();
    });
    server.on('error', () => client.destroy());
    client.once('close', () => server.destroy());
    if (client.destroyed) return void server.destroy();
    client.write(replyOf(REPLY.done));
    client.pipe(server);
    server.pipe(client);
  }
}

interface SocksRequest {
  readonly host: string;
  readonly port: number;
  readonly rest: Buffer;
  /** Set for what cannot be served. */
  readonly reply?: number;
}

/** A request to connect (RFC 1928, 4 and 5); undefined as long as it is not whole. */
function readRequest(bytes: Buffer): SocksRequest | undefined {
  if (bytes.length < 5) return undefined;
  const kind = bytes[3];
  const length = kind === 1 ? 4 : kind === 4 ? 16 : kind === 3 ? (bytes[4] ?? 0) + 1 : 0;
  const none = { host: '', port: 0, rest: Buffer.alloc(0) };
  if (bytes[0] !== 5 || length === 0) return { ...none, reply: REPLY.badAddress };
  if (bytes.length < 4 + length + 2) return undefined;
  if (bytes[1] !== 1) return { ...none, reply: REPLY.notSupported };
  const raw = bytes.subarray(4, 4 + length);
  const host =
    kind === 1
      ? raw.join('.')
      : kind === 4
        ? Array.from({ length: 8 }, (_, i) => raw.readUInt16BE(i * 2).toString(16)).join(':')
        : raw.subarray(1).toString('latin1');
  return { host, port: bytes.readUInt16BE(4 + length), rest: bytes.subarray(4 + length + 2) };
}

const replyOf = (code: number) => Buffer.from([5, code, 0, 1, 0, 0, 0, 0, 0, 0]);
