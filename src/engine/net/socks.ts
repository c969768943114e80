import net from 'node:net';
import type { Duplex } from 'node:stream';

/** Replies of a SOCKS server (RFC 1928, 6). */
export const SOCKS_REPLY = {
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

/** What a connection that was asked for becomes: a stream to join it with, or the reply that refuses it. */
export type SocksAnswer = { readonly stream: Duplex } | { readonly refused: number };

/** Makes the connection that a client has asked for; it may give up while it waits. */
export type SocksConnect = (host: string, port: number, client: net.Socket) => Promise<SocksAnswer>;

/** A SOCKS server (RFC 1928) on loopback, without a password: who connects where is up to its caller. */
export class SocksServer {
  private readonly open = new Set<Duplex>();
  private readonly server: net.Server;

  private constructor(private readonly connect: SocksConnect) {
    this.server = net.createServer((socket) => this.serve(socket));
  }

  /** Starts a server on a free port of an address of this machine. */
  static async start(connect: SocksConnect, address = '127.0.0.1'): Promise<SocksServer> {
    const made = new SocksServer(connect);
    await new Promise<void>((done, fail) => {
      made.server.once('error', fail);
      made.server.listen(0, address, done);
    });
    return made;
  }

  get port(): number {
    return (this.server.address() as net.AddressInfo).port;
  }

  /** Ends every connection; new ones may be made. */
  hangUp(): void {
    for (const stream of this.open) stream.destroy();
  }

  /** Ends the server and all that goes through it. */
  async close(): Promise<void> {
    this.hangUp();
    await new Promise<void>((done) => this.server.close(() => done()));
  }

  private serve(client: net.Socket): void {
    this.keep(client);
    client.setNoDelay(true);
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
      void this.join(client, request.host, request.port);
    };
    client.on('data', read);
  }

  private async join(client: net.Socket, host: string, port: number): Promise<void> {
    const answer = await this.connect(host, port, client).catch(() => ({ refused: SOCKS_REPLY.failed }));
    if ('refused' in answer) return void client.end(replyOf(answer.refused));
    const { stream } = answer;
    this.keep(stream);
    stream.once('close', () => client.destroy());
    stream.on('error', () => client.destroy());
    client.once('close', () => stream.destroy());
    if (client.destroyed) return void stream.destroy();
    client.write(replyOf(SOCKS_REPLY.done));
    client.pipe(stream);
    stream.pipe(client);
  }

  private keep(stream: Duplex): void {
    this.open.add(stream);
    stream.once('close', () => this.open.delete(stream));
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
  if (bytes[0] !== 5 || length === 0) return { ...none, reply: SOCKS_REPLY.badAddress };
  if (bytes.length < 4 + length + 2) return undefined;
  if (bytes[1] !== 1) return { ...none, reply: SOCKS_REPLY.notSupported };
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
