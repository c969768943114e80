/**
 * The stand-in servers on the far side of the rig, as a child process in its network namespace. Told by messages
 * which hosts there are and what they answer.
 */
import http from 'node:http';
import http2 from 'node:http2';
import https from 'node:https';
import type net from 'node:net';
import zlib from 'node:zlib';
import { addressOf, type FileSpec, type HostSpec } from './site';
import { sendEarlyHints } from '../../src/engine/replay/earlyHints';
import { sendParts } from '../../src/engine/replay/parts';
import { Turns, urgencyOf } from '../../src/engine/replay/turns';

/** Private key and certificate for all hosts. */
export interface Tls {
  readonly key: string;
  readonly cert: string;
}

/** What the parent says; every message is answered with its number. */
export type Message =
  | { readonly id: number; readonly kind: 'hosts'; readonly hosts: readonly HostSpec[]; readonly tls: Tls }
  | { readonly id: number; readonly kind: 'files'; readonly files: readonly (readonly [string, FileSpec])[] }
  /** Ends every connection, as days between two visits do. */
  | { readonly id: number; readonly kind: 'hangup' };

interface Ready extends Omit<FileSpec, 'body'> {
  readonly body: Buffer;
  readonly all: Record<string, string>;
}

let files = new Map<string, Ready>();
let servers: (http.Server | https.Server | http2.Http2SecureServer)[] = [];
const sockets = new Set<net.Socket>();
const sessions = new WeakMap<http2.Http2Session, Turns>();

process.on('message', (message: Message) => {
  void handle(message).then(
    () => process.send?.({ id: message.id }),
    (error: unknown) => process.send?.({ id: message.id, error: String(error) }),
  );
});
process.on('disconnect', () => process.exit(0));

async function handle(message: Message): Promise<void> {
  if (message.kind === 'files') files = new Map(message.files.map(([url, file]) => [url, ready(file)]));
  else if (message.kind === 'hangup') hangUp();
  else await open(message.hosts, message.tls);
}

function hangUp(): void {
  for (const socket of sockets) socket.destroy();
  sockets.clear();
}

function ready(file: FileSpec): Ready {
  const plain = Buffer.from(file.body);
  const body = file.gzip ? zlib.gzipSync(plain, { level: 6 }) : plain;
  return {
    ...file,
    body,
    all: {
      'content-type': file.type,
      'cache-control': 'no-cache',
      'access-control-allow-origin': '*',
      ...(file.gzip ? { 'content-encoding': 'gzip', vary: 'accept-encoding' } : {}),
      ...file.headers,
      'content-length': String(body.length),
    },
  };
}

async function open(hosts: readonly HostSpec[], tls: Tls): Promise<void> {
  hangUp();
  await Promise.all(servers.map((s) => new Promise<void>((done) => s.close(() => done()))));
  servers = [];
  await Promise.all(
    hosts.flatMap((host, i) => {
      const secure =
        host.protocol === 'h2'
          ? http2.createSecureServer(tls, (q, r) => void answerTurns(host, q, r))
          : https.createServer(tls, (q, r) => void answer(host, 'https', q, r));
      const plain = http.createServer((q, r) => void answer(host, 'http', q, r));
      return [listen(secure, 443, addressOf(i)), listen(plain, 80, addressOf(i))];
    }),
  );
}

function listen(server: (typeof servers)[number], port: number, address: string): Promise<void> {
  servers.push(server);
  if ('keepAliveTimeout' in server) server.keepAliveTimeout = 60_000;
  server.on('connection', (socket: net.Socket) => {
    sockets.add(socket);
    socket.setNoDelay(true);
    socket.once('close', () => sockets.delete(socket));
    socket.on('error', () => undefined);
  });
  return new Promise((done, fail) => {
    server.once('error', fail);
    server.listen(port, address, () => done());
  });
}

const GONE: Ready = {
  type: 'text/plain',
  status: 404,
  body: Buffer.from('Not here.'),
  all: { 'content-type': 'text/plain', 'content-length': '9' },
};

/** As file servers do: a query names no other file. */
function fileAt(host: HostSpec, scheme: string, path: string): Ready {
  const address = `${scheme}://${host.name}${path}`;
  return files.get(address) ?? files.get(address.replace(/\?.*$/, '')) ?? GONE;
}

async function find(host: HostSpec, scheme: string, path: string): Promise<Ready> {
  const file = fileAt(host, scheme, path);
  const waitMs = file.waitMs ?? host.waitMs;
  if (waitMs > 0) await new Promise((done) => setTimeout(done, waitMs));
  return file;
}

/** 304 when the browser has what there is (RFC 9110, 13.1). */
const unchanged = (file: Ready, match: string | undefined) =>
  file.headers?.etag !== undefined && match === file.headers.etag;

async function answer(
  host: HostSpec,
  scheme: string,
  request: http.IncomingMessage,
  response: http.ServerResponse,
): Promise<void> {
  const file = await find(host, scheme, request.url ?? '/');
  if (unchanged(file, request.headers['if-none-match'])) {
    response.writeHead(304, { etag: file.headers?.etag, 'cache-control': file.all['cache-control'] });
    response.end();
    return;
  }
  response.writeHead(file.status ?? 200, file.all);
  sendParts(response, file.body, file.pauses);
}

async function answerTurns(
  host: HostSpec,
  request: http2.Http2ServerRequest,
  response: http2.Http2ServerResponse,
): Promise<void> {
  const { stream } = response;
  const { hints } = fileAt(host, 'https', request.url);
  if (hints) sendEarlyHints(stream, hints);
  const file = await find(host, 'https', request.url);
  if (stream.destroyed || !stream.session) return;
  if (unchanged(file, request.headers['if-none-match'] as string | undefined)) {
    stream.respond(
      { ':status': 304, etag: file.headers?.etag, 'cache-control': file.all['cache-control'] },
      { endStream: true },
    );
    return;
  }
  stream.respond({ ':status': file.status ?? 200, ...file.all });
  let turns = sessions.get(stream.session);
  if (!turns) sessions.set(stream.session, (turns = new Turns(host.order ?? 'fair')));
  turns.add(stream, file.body, urgencyOf(request.headers.priority as string | undefined), file.pauses);
}
