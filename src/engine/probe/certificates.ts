import { X509Certificate } from 'node:crypto';
import fs from 'node:fs';
import net from 'node:net';
import tls from 'node:tls';
import type { SeenCertificate } from '../../core/site/certificates';
import { secureContext, type ConnectOptions } from '../crawl/connector';
import { Guard, RefusedAddressError } from '../net/guard';
import { signatureAlgorithm } from './der';

const VERSIONS = ['TLSv1', 'TLSv1.1', 'TLSv1.2', 'TLSv1.3'] as const;
type Version = (typeof VERSIONS)[number];
const shownVersion = (v: string) => v.replace(/^TLSv1$/, 'TLS 1.0').replace(/^TLSv/, 'TLS ');

/** Longest handshake, in ms. */
const HANDSHAKE_MS = 10_000;

/**
 * Makes handshakes of our own with a host: one to see the certificate and its chain, one for each protocol version.
 * Undefined when no connection with TLS comes about.
 * @throws RefusedAddressError
 */
export async function seeCertificate(
  host: string,
  port: number,
  options: ConnectOptions,
  signal?: AbortSignal,
): Promise<SeenCertificate | undefined> {
  const guard = new Guard(options);
  const seen = await handshake(guard, host, port, options, undefined, signal);
  if (!seen) return undefined;
  const accepted: Version[] = [];
  for (const version of VERSIONS) {
    signal?.throwIfAborted();
    if (version === seen.version || (await handshake(guard, host, port, options, version, signal)))
      accepted.push(version);
  }
  const leaf = seen.chain[0];
  if (!leaf) return undefined;
  const key = leaf.publicKey;
  const bits = key.asymmetricKeyDetails?.modulusLength ?? curveBits(key.asymmetricKeyDetails?.namedCurve);
  return {
    host,
    names: namesOf(leaf),
    issuer: issuerOf(leaf),
    validFrom: new Date(leaf.validFrom).toISOString(),
    validTo: new Date(leaf.validTo).toISOString(),
    chain: chainOf(seen.chain, rootsOf(options.roots)),
    key: keyName(key.asymmetricKeyType ?? '', key.asymmetricKeyDetails?.namedCurve, bits),
    keyBits: bits,
    keyType: key.asymmetricKeyType ?? '',
    signature: signatureAlgorithm(leaf.raw),
    oldestTls: shownVersion(accepted[0] ?? seen.version),
    newestTls: shownVersion(accepted.at(-1) ?? seen.version),
    http2: seen.http2,
  };
}

interface Handshake {
  readonly version: string;
  /** The server's certificate first, then what it was issued by, as far as was sent or is trusted. */
  readonly chain: readonly X509Certificate[];
  readonly http2: boolean;
}

/** Anything a server may still speak is accepted here: the point is to see it. */
async function handshake(
  guard: Guard,
  host: string,
  port: number,
  options: ConnectOptions,
  version: Version | undefined,
  signal: AbortSignal | undefined,
): Promise<Handshake | undefined> {
  const plain = await guard.connect(host, port).catch((error: unknown) => {
    if (error instanceof RefusedAddressError) throw error;
    return undefined;
  });
  if (!plain) return undefined;
  return new Promise((done) => {
    const socket = tls.connect({
      socket: plain,
      servername: net.isIP(host) ? undefined : host,
      ALPNProtocols: ['h2', 'http/1.1'],
      rejectUnauthorized: false,
      secureContext: secureContext(options.roots, {
        minVersion: version ?? 'TLSv1',
        maxVersion: version ?? 'TLSv1.3',
        ciphers: 'ALL:@SECLEVEL=0',
      }),
    });
    const end = (value: Handshake | undefined) => {
      clearTimeout(timer);
      signal?.removeEventListener('abort', stop);
      socket.destroy();
      done(value);
    };
    const stop = () => end(undefined);
    const timer = setTimeout(stop, HANDSHAKE_MS);
    signal?.addEventListener('abort', stop, { once: true });
    socket.once('secureConnect', () =>
      end({
        version: socket.getProtocol() ?? '',
        chain: version ? [] : sentChain(socket),
        http2: socket.alpnProtocol === 'h2',
      }),
    );
    socket.once('error', stop);
    socket.once('close', stop);
  });
}

function sentChain(socket: tls.TLSSocket): X509Certificate[] {
  const out: X509Certificate[] = [];
  let at: tls.DetailedPeerCertificate | undefined = socket.getPeerCertificate(true);
  const seen = new Set<string>();
  while (at?.raw && !seen.has(at.fingerprint256) && out.length < 20) {
    seen.add(at.fingerprint256);
    out.push(new X509Certificate(at.raw));
    at = at.issuerCertificate;
  }
  return out;
}

/** Whether the chain leads to a root that is trusted: dates do not matter here. */
function chainOf(chain: readonly X509Certificate[], roots: ReadonlySet<string>): SeenCertificate['chain'] {
  const leaf = chain[0];
  const last = chain.at(-1);
  if (!leaf || !last) return 'incomplete';
  if (chain.some((c) => roots.has(c.fingerprint256))) return 'complete';
  if (isOwnIssuer(last)) return 'self-signed';
  return 'incomplete';
}

const isOwnIssuer = (c: X509Certificate) => c.subject === c.issuer && c.checkIssued(c);

let builtIn: ReadonlySet<string> | undefined;

/** Fingerprints of every root that is trusted. */
function rootsOf(roots: readonly string[] | undefined): ReadonlySet<string> {
  builtIn ??= new Set([...tls.rootCertificates, ...extraRoots()].flatMap(fingerprint));
  return roots ? new Set([...builtIn, ...roots.flatMap(fingerprint)]) : builtIn;
}

/** Roots of the file that NODE_EXTRA_CA_CERTS names: Node trusts them, and does not list them. */
function extraRoots(): string[] {
  const file = process.env['NODE_EXTRA_CA_CERTS'];
  if (!file) return [];
  try {
    return fs.readFileSync(file, 'utf8').match(/-----BEGIN CERTIFICATE-----[^-]+-----END CERTIFICATE-----/g) ?? [];
  } catch {
    return [];
  }
}

function fingerprint(pem: string): string[] {
  try {
    return [new X509Certificate(pem).fingerprint256];
  } catch {
    return [];
  }
}

/** DNS names and addresses; the common name only where there are none, as for a person who looks. */
function namesOf(leaf: X509Certificate): string[] {
  const names = (leaf.subjectAltName ?? '')
    .split(/,\s*/)
    .flatMap((part) => /^(?:DNS|IP Address):"?([^"]+)"?$/.exec(part.trim())?.[1]?.toLowerCase() ?? []);
  return [...new Set(names)];
}

function issuerOf(leaf: X509Certificate): string {
  const field = (name: string) => new RegExp(`^${name}=(.*)$`, 'm').exec(leaf.issuer)?.[1];
  return [field('O'), field('CN')].filter(Boolean).join(', ') || leaf.issuer.replaceAll('\n', ', ');
}

const CURVE_BITS: Readonly<Record<string, number>> = {
  prime192v1: 192,
  secp224r1: 224,
  prime256v1: 256,
  secp384r1: 384,
  secp521r1: 521,
};
const CURVE_NAMES: Readonly<Record<string, string>> = { prime256v1: 'P-256', secp384r1: 'P-384', secp521r1: 'P-521' };

const curveBits = (curve: string | undefined) =>
  curve === undefined ? 0 : (CURVE_BITS[curve] ?? Number(/\d{3}/.exec(curve)?.[0] ?? 0));

function keyName(type: string, curve: string | undefined, bits: number): string {
  if (type === 'ec') return `EC ${CURVE_NAMES[curve ?? ''] ?? curve ?? ''}`.trim();
  if (/^ed/.test(type)) return type.replace('ed', 'Ed');
  return `${type.replace('-pss', '').toUpperCase()} ${bits}`;
}
