import net from 'node:net';
import tls from 'node:tls';
import { Agent, buildConnector } from 'undici';
import { Guard, type CheckedPlace, type GuardOptions } from '../net/guard';
import { bareHost } from '../net/hostMap';

/** How connections are made. */
export interface ConnectOptions extends GuardOptions {
  readonly acceptAnyCertificate: boolean;
  readonly parallel: number;
  /** Only addresses of this family are connected to. */
  readonly family?: 4 | 6;
  /** Roots that are trusted besides the built-in ones, as PEM. */
  readonly roots?: readonly string[];
}

const contexts = new Map<string, tls.SecureContext>();

/**
 * A TLS context that trusts more roots, made once: reading all roots for each connection costs more than the handshake.
 * Without roots of its own it trusts what Node does, NODE_EXTRA_CA_CERTS among it.
 */
export function secureContext(
  roots: readonly string[] | undefined,
  options: Pick<tls.SecureContextOptions, 'minVersion' | 'maxVersion' | 'ciphers'> = {},
): tls.SecureContext {
  const key = JSON.stringify([roots ?? [], options]);
  const known = contexts.get(key);
  if (known) return known;
  const ca = roots && roots.length > 0 ? [...tls.rootCertificates, ...roots] : undefined;
  const made = tls.createSecureContext({ ...options, ca });
  contexts.set(key, made);
  return made;
}

/** Connections for a crawl: mapped hosts, and no way to what the guard refuses. */
export function crawlAgent(options: ConnectOptions): Agent {
  const guard = new Guard(options);
  const connect = buildConnector({
    rejectUnauthorized: !options.acceptAnyCertificate,
    timeout: 15_000,
    ...(options.roots && { secureContext: secureContext(options.roots) }),
  });
  return new Agent({
    connections: Math.max(1, options.parallel),
    pipelining: 1,
    keepAliveTimeout: 10_000,
    maxHeaderSize: 64 * 1024,
    connect: (target, done) => {
      const host = target.hostname;
      const port = Number(target.port) || (target.protocol === 'https:' ? 443 : 80);
      const next = (place: CheckedPlace, i: number): void => {
        connect(
          {
            ...target,
            hostname: place.addresses[i] ?? '',
            port: String(place.port),
            // The certificate is checked against the name, not against the address.
            servername: target.servername ?? (net.isIP(bareHost(host)) ? undefined : host),
          },
          (...result) => {
            if (result[0] && i + 1 < place.addresses.length) next(place, i + 1);
            else done(...result);
          },
        );
      };
      guard.resolve(host, port).then(
        (place) => next(options.family ? ofFamily(place, options.family) : place, 0),
        (error: unknown) => done(error as Error, null),
      );
    },
  });
}

const ofFamily = (place: CheckedPlace, family: 4 | 6): CheckedPlace => ({
  ...place,
  addresses: place.addresses.filter((a) => net.isIP(a) === family),
});

/** The protocol that an https origin agrees to by ALPN (RFC 7301): asked once an origin. */
export class ProtocolProbe {
  private readonly known = new Map<string, Promise<string | undefined>>();
  private readonly guard: Guard;

  constructor(private readonly options: ConnectOptions) {
    this.guard = new Guard(options);
  }

  /** `h2` or `http/1.1`; undefined when no connection comes about. */
  of(url: string): Promise<string | undefined> {
    const { protocol, hostname, port, origin } = new URL(url);
    if (protocol !== 'https:') return Promise.resolve('http/1.1');
    let answer = this.known.get(origin);
    if (!answer) {
      answer = this.ask(bareHost(hostname), Number(port) || 443);
      this.known.set(origin, answer);
    }
    return answer;
  }

  private async ask(host: string, port: number): Promise<string | undefined> {
    const plain = await this.guard.connect(host, port).catch(() => undefined);
    if (!plain) return undefined;
    return new Promise((done) => {
      const socket = tls.connect({
        socket: plain,
        servername: net.isIP(host) ? undefined : host,
        ALPNProtocols: ['h2', 'http/1.1'],
        rejectUnauthorized: !this.options.acceptAnyCertificate,
      });
      const end = (value: string | undefined) => {
        socket.destroy();
        done(value);
      };
      socket.setTimeout(10_000, () => end(undefined));
      socket.once('secureConnect', () => end(socket.alpnProtocol || 'http/1.1'));
      socket.once('error', () => end(undefined));
    });
  }
}
