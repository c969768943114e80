import dns from 'node:dns';
import net, { type LookupFunction } from 'node:net';
import tls from 'node:tls';
import { Agent, buildConnector } from 'undici';
import { mapRule } from '../record/chromium';
import { isPrivateAddress } from '../net/privateAddress';

/** How connections are made. */
export interface ConnectOptions {
  readonly allowPrivate: boolean;
  readonly acceptAnyCertificate: boolean;
  /** `HOST[:PORT]=IP[:PORT]` */
  readonly mapHosts: readonly string[];
  readonly parallel: number;
}

/** An address that must not be asked. */
export class PrivateAddressError extends Error {
  constructor(
    readonly host: string,
    readonly address: string,
  ) {
    super(`${host} leads to the private address ${address}`);
  }
}

/** Connections for a crawl: mapped hosts, and no way to private addresses through a public name (RFC 6890). */
export function crawlAgent(options: ConnectOptions): Agent {
  const connect = buildConnector({
    rejectUnauthorized: !options.acceptAnyCertificate,
    timeout: 15_000,
    lookup: options.allowPrivate ? undefined : publicLookup,
  });
  const mapped = buildConnector({ rejectUnauthorized: !options.acceptAnyCertificate, timeout: 15_000 });
  const places = options.mapHosts.map(placeOf);
  return new Agent({
    connections: Math.max(1, options.parallel),
    pipelining: 1,
    keepAliveTimeout: 10_000,
    maxHeaderSize: 64 * 1024,
    connect: (target, done) => {
      const port = target.port || (target.protocol === 'https:' ? '443' : '80');
      const to = mappedPlace(places, target.hostname, port);
      if (to) {
        // The certificate is checked against the name, not against where it was mapped to.
        mapped(
          { ...target, hostname: to.host, port: to.port ?? port, servername: target.servername ?? target.hostname },
          done,
        );
        return;
      }
      if (!options.allowPrivate && net.isIP(bare(target.hostname)) && isPrivateAddress(bare(target.hostname))) {
        done(new PrivateAddressError(target.hostname, bare(target.hostname)), null);
        return;
      }
      connect(target, done);
    },
  });
}

interface Place {
  readonly fromHost: string;
  readonly fromPort?: string;
  readonly host: string;
  readonly port?: string;
}

/** @throws InputError for what is no map */
function placeOf(text: string): Place {
  const [, from = '', to = ''] = mapRule(text).split(' ');
  const [fromHost = '', fromPort] = from.split(':');
  const ported = /^(\[.*\]|[^:]*):(\d+)$/.exec(to);
  return { fromHost: fromHost.toLowerCase(), fromPort, host: bare(ported?.[1] ?? to), port: ported?.[2] };
}

function mappedPlace(places: readonly Place[], host: string, port: string): Place | undefined {
  return places.find(
    (p) =>
      (p.fromHost === host || (p.fromHost.startsWith('*.') && host.endsWith(p.fromHost.slice(1)))) &&
      (p.fromPort === undefined || p.fromPort === port),
  );
}

const bare = (host: string) => host.replace(/^\[|\]$/g, '');

const publicLookup: LookupFunction = (host, options, done) => {
  dns.lookup(host, { ...options, all: true }, (error, addresses) => {
    if (error) return done(error, '', 4);
    const inner = addresses.find((a) => isPrivateAddress(a.address));
    if (inner) return done(new PrivateAddressError(host, inner.address), '', 4);
    const [first] = addresses;
    if (options.all) (done as unknown as (e: null, a: dns.LookupAddress[]) => void)(null, addresses);
    else done(null, first?.address ?? '', first?.family ?? 4);
  });
};

/** The protocol that an https origin agrees to by ALPN (RFC 7301): asked once an origin. */
export class ProtocolProbe {
  private readonly known = new Map<string, Promise<string | undefined>>();
  private readonly places: readonly Place[];

  constructor(private readonly options: ConnectOptions) {
    this.places = options.mapHosts.map(placeOf);
  }

  /** `h2` or `http/1.1`; undefined when no connection comes about. */
  of(url: string): Promise<string | undefined> {
    const { protocol, hostname, port, origin } = new URL(url);
    if (protocol !== 'https:') return Promise.resolve('http/1.1');
    let answer = this.known.get(origin);
    if (!answer) {
      answer = this.ask(hostname, port || '443');
      this.known.set(origin, answer);
    }
    return answer;
  }

  private ask(hostname: string, port: string): Promise<string | undefined> {
    const to = mappedPlace(this.places, hostname, port);
    return new Promise((done) => {
      const socket = tls.connect({
        host: to?.host ?? bare(hostname),
        port: Number(to?.port ?? port),
        servername: net.isIP(bare(hostname)) ? undefined : hostname,
        ALPNProtocols: ['h2', 'http/1.1'],
        rejectUnauthorized: !this.options.acceptAnyCertificate,
        ...(to || this.options.allowPrivate ? {} : { lookup: publicLookup }),
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
