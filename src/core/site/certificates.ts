import { coversHost } from '../checks/https/certificate';
import { registrableDomain } from '../capture/site';
import { MIN_DAYS_LEFT } from './certificateLimits';
import { bareForm } from './entrances';

/** What a handshake with a host showed. */
export interface SeenCertificate {
  readonly host: string;
  /** DNS names and addresses of subjectAltName, in lower case (RFC 5280, 4.2.1.6). */
  readonly names: readonly string[];
  readonly issuer: string;
  /** ISO dates. */
  readonly validFrom: string;
  readonly validTo: string;
  readonly chain: 'complete' | 'incomplete' | 'self-signed';
  /** For example `RSA 2048` or `EC P-256`. */
  readonly key: string;
  readonly keyBits: number;
  readonly keyType: string;
  /** For example `sha256WithRSAEncryption`. */
  readonly signature: string;
  /** Oldest and newest protocol version that the server accepts, for example `TLS 1.2`. */
  readonly oldestTls: string;
  readonly newestTls: string;
  /** Agrees to HTTP/2 by ALPN (RFC 7301). */
  readonly http2: boolean;
}

export const CERTIFICATE_FAULTS = [
  'expired',
  'not yet valid',
  'wrong name',
  'self-signed',
  'incomplete chain',
  'weak key',
  'weak signature',
  'old protocol',
  'ends soon',
] as const;
export type CertificateFault = (typeof CERTIFICATE_FAULTS)[number];

/** A certificate with what is wrong with it. */
export interface JudgedCertificate extends SeenCertificate {
  readonly covers: { readonly bare: boolean; readonly www: boolean };
  /** Whole days from the probe to the end; negative once it has expired. */
  readonly daysLeft: number;
  readonly faults: readonly CertificateFault[];
}

/** Judges a certificate at a time (RFC 5280, 4.1.2.5; RFC 9525, 6.3; RFC 8996; CA/Browser Forum key sizes). */
export function judgeCertificate(seen: SeenCertificate, at: Date): JudgedCertificate {
  const bare = bareForm(seen.host);
  const leftMs = Date.parse(seen.validTo) - at.getTime();
  const daysLeft = Math.floor(leftMs / 86_400_000);
  const early = Date.parse(seen.validFrom) > at.getTime();
  const is: Readonly<Record<CertificateFault, boolean>> = {
    expired: leftMs < 0,
    'not yet valid': early,
    'wrong name': !coversHost(seen, seen.host),
    'self-signed': seen.chain === 'self-signed',
    'incomplete chain': seen.chain === 'incomplete',
    'weak key': isWeakKey(seen.keyType, seen.keyBits),
    'weak signature': /md2|md4|md5|sha-?1(?!\d)/i.test(seen.signature),
    'old protocol': /SSL|TLS 1\.[01]$/.test(seen.oldestTls),
    'ends soon': leftMs >= 0 && !early && daysLeft < MIN_DAYS_LEFT,
  };
  return {
    ...seen,
    covers: { bare: coversHost(seen, bare), www: coversHost(seen, `www.${bare}`) },
    daysLeft,
    faults: CERTIFICATE_FAULTS.filter((f) => is[f]),
  };
}

function isWeakKey(type: string, bits: number): boolean {
  if (type === 'dsa') return true;
  if (type === 'rsa' || type === 'rsa-pss') return bits > 0 && bits < 2048;
  return type === 'ec' && bits > 0 && bits < 256;
}

/** What a host says in Strict-Transport-Security, and what is missing (RFC 6797, 6.1 and 7.2). */
export interface HstsPolicy {
  readonly host: string;
  /** As sent; null when there is none. */
  readonly header: string | null;
  /** Seconds; null when the header has no max-age that can be read. */
  readonly maxAge: number | null;
  readonly includeSubDomains: boolean;
  readonly preload: boolean;
  readonly faults: readonly string[];
}

/** Half a year: visitors who return less often are not protected anyway. */
export const MIN_HSTS_S = 15_552_000;
const PRELOAD_S = 31_536_000;

/** Reads the header of a host's https response. */
export function judgeHsts(host: string, header: string | undefined): HstsPolicy {
  if (header === undefined)
    return {
      host,
      header: null,
      maxAge: null,
      includeSubDomains: false,
      preload: false,
      faults: ['No Strict-Transport-Security header: browsers try http:// first.'],
    };
  const age = /(?:^|;)\s*max-age\s*=\s*(?:"(\d+)"|(\d+))\s*(?:;|$)/i.exec(header);
  const maxAge = age ? Number(age[1] ?? age[2]) : null;
  const includeSubDomains = /(?:^|;)\s*includeSubDomains\s*(?:;|$)/i.test(header);
  const preload = /(?:^|;)\s*preload\s*(?:;|$)/i.test(header);
  const days = Math.round((maxAge ?? 0) / 86_400);
  const faults: string[] = [];
  if (maxAge === null) faults.push('The header has no max-age, so browsers ignore it.');
  else if (maxAge === 0) faults.push('max-age is 0: it switches HSTS off.');
  else if (maxAge < MIN_HSTS_S)
    faults.push(`max-age is only ${days === 1 ? '1 day' : `${days} days`}: set half a year or more.`);
  // A host deep inside a domain rarely has subdomains of its own.
  const spans = registrableDomain(host) === bareForm(host);
  if (!includeSubDomains && spans && maxAge !== 0)
    faults.push('includeSubDomains is missing: subdomains are not covered.');
  if (preload && (!includeSubDomains || (maxAge ?? 0) < PRELOAD_S))
    faults.push('preload needs includeSubDomains and a max-age of one year or more.');
  return { host, header, maxAge, includeSubDomains, preload, faults };
}
