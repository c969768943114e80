import http from 'node:http';
import http2 from 'node:http2';
import https from 'node:https';
import type net from 'node:net';
import type { Duplex } from 'node:stream';
import type { AnswerBook } from './answerBook';
import { sendEarlyHints } from './earlyHints';
import type { Answer, KeyAndCertificate, ReplayHost } from './messages';
import { sendParts } from './parts';
import { Turns, urgencyOf } from './turns';

type AnyServer = http.Server | https.Server | http2.Http2SecureServer;

const NOT_CAPTURED = Buffer.from('This was never captured.');

/** The servers of one replay: a host each, which answer from a book. They listen nowhere by themselves. */
export class ReplayServers {
  private readonly servers = new Map<string, AnyServer>();
  private readonly streams = new Set<Duplex>();
  private readonly turns = new WeakMap<http2.Http2Session, Turns>();

  constructor(
    hosts: readonly ReplayHost[],
    keys: KeyAndCertificate,
    private readonly book: AnswerBook,
  ) {
    for (const host of hosts) {
      const server = this.make(host, keys);
      if ('keepAliveTimeout' in server) server.keepAliveTimeout = 120_000;
      server.on('connection', (stream: Duplex) => {
        this.streams.add(stream);
        stream.once('close', () => this.streams.delete(stream));
        stream.on('error', () => undefined);
      });
      this.servers.set(keyOf(host.host, host.port), server);
    }
  }

  has(host: string, port: number): boolean {
    return this.servers.has(keyOf(host, port));
  }

  /** Gives a server a connection. */
  serve(host: string, port: number, stream: Duplex): void {
    this.servers.get(keyOf(host, port))?.emit('connection', stream);
  }

  /** Lets the servers listen, each at its host's address. */
  async listen(hosts: readonly ReplayHost[], addresses: Readonly<Record<string, string>>): Promise<void> {
    await Promise.all(
      hosts.map((h) => {
        const server = this.servers.get(keyOf(h.host, h.port));
        return new Promise<void>((done, fail) => {
          server?.on('connection', (socket: net.Socket) => socket.setNoDelay(true));
          server?.once('error', fail);
          server?.listen(h.port, addresses[h.host], () => done());
        });
      }),
    );
  }

  /** Ends every connection. */
  hangUp(): void {
    for (const stream of this.streams) stream.destroy();
  }

  private make(host: ReplayHost, keys: KeyAndCertificate): AnyServer {
    const tls = { ...keys, maxVersion: host.oldTls ? ('TLSv1.2' as const) : undefined };
    if (!host.secure) return http.createServer((q, r) => void this.answer(host, q, r).catch(() => r.destroy()));
    if (host.protocol === 'h1')
      return https.createServer(tls, (q, r) => void this.answer(host, q, r).catch(() => r.destroy()));
    const server = http2.createSecureServer(
      { ...tls, allowHTTP1: true },
      (q, r) => void this.answerStream(host, q, r).catch(() => r.stream?.close(http2.constants.NGHTTP2_INTERNAL_ERROR)),
    );
    server.on('sessionError', () => undefined);
    return server;
  }

  /** Each call counts as a request. */
  private find(host: ReplayHost, method: string, path: string): Answer | undefined {
    return this.book.find(method, `${host.origin}${path}`);
  }

  private async answer(host: ReplayHost, request: http.IncomingMessage, response: http.ServerResponse): Promise<void> {
    const method = request.method ?? 'GET';
    request.resume();
    if (isPreflight(method, request.headers)) return void response.writeHead(204, allowing(request.headers)).end();
    const answer = this.find(host, method, request.url ?? '/');
    await think(answer);
    if (!answer) return void response.writeHead(404, { 'content-length': NOT_CAPTURED.length }).end(NOT_CAPTURED);
    if (answer.fails) return void response.destroy();
    response.sendDate = false;
    response.writeHead(
      answer.status,
      [...answer.headers.map(([n, v]) => [n, v]), ['content-length', String(answer.body.length)]].flat(),
    );
    if (method === 'HEAD') response.end();
    else sendParts(response, Buffer.from(answer.body), answer.pauses);
  }

  private async answerStream(
    host: ReplayHost,
    request: http2.Http2ServerRequest,
    response: http2.Http2ServerResponse,
  ): Promise<void> {
    if (request.httpVersionMajor < 2)
      return this.answer(host, request as unknown as http.IncomingMessage, response as unknown as http.ServerResponse);
    const { method, headers } = request;
    const { stream } = response;
    if (isPreflight(method, headers))
      return void stream.respond({ ':status': 204, ...allowing(headers) }, { endStream: true });
    const answer = this.find(host, method, request.url);
    if (answer?.hints) sendEarlyHints(stream, answer.hints);
    await think(answer);
    if (stream.destroyed || !stream.session) return;
    if (!answer) {
      stream.respond({ ':status': 404, 'content-length': NOT_CAPTURED.length });
      return void stream.end(NOT_CAPTURED);
    }
    if (answer.fails) return stream.close(http2.constants.NGHTTP2_INTERNAL_ERROR);
    const fields: http2.OutgoingHttpHeaders = { ':status': answer.status, 'content-length': answer.body.length };
    for (const [name, value] of answer.headers) {
      const known = fields[name];
      fields[name] = known === undefined ? value : `${String(known)}, ${value}`;
    }
    stream.respond(fields, { endStream: method === 'HEAD' || answer.body.length === 0 });
    if (method === 'HEAD' || answer.body.length === 0) return;
    let turns = this.turns.get(stream.session);
    if (!turns) this.turns.set(stream.session, (turns = new Turns(host.order)));
    turns.add(stream, Buffer.from(answer.body), urgencyOf(headers.priority as string | undefined), answer.pauses);
  }
}

const think = async (answer: Answer | undefined): Promise<void> => {
  if (answer && answer.waitMs > 0) await new Promise((done) => setTimeout(done, answer.waitMs));
};

const keyOf = (host: string, port: number) => `${host}:${port}`;

/** A question that goes before a request to another origin (Fetch, 4.8); recordings mostly leave it out. */
const isPreflight = (method: string, headers: http.IncomingHttpHeaders) =>
  method === 'OPTIONS' && headers['access-control-request-method'] !== undefined;

const allowing = (headers: http.IncomingHttpHeaders) => ({
  'access-control-allow-origin': headers.origin ?? '*',
  'access-control-allow-methods': headers['access-control-request-method'] ?? '*',
  'access-control-allow-headers': headers['access-control-request-headers'] ?? '*',
  'access-control-allow-credentials': 'true',
});
