/** One element of DER (ITU-T X.690, 8.1): where its content lies. */
interface Element {
  readonly tag: number;
  readonly start: number;
  readonly end: number;
}

function elementAt(bytes: Uint8Array, at: number): Element | undefined {
  const tag = bytes[at];
  let length = bytes[at + 1];
  if (tag === undefined || length === undefined) return undefined;
  let start = at + 2;
  if (length >= 0x80) {
    const count = length & 0x7f;
    if (count === 0 || count > 4) return undefined;
    length = 0;
    for (let i = 0; i < count; i++) length = length * 256 + (bytes[start + i] ?? 0);
    start += count;
  }
  const end = start + length;
  return end <= bytes.length ? { tag, start, end } : undefined;
}

/** Names of signature algorithms (RFC 3279, 4055, 5758, 8410). */
const NAMES: Readonly<Record<string, string>> = {
  '1.2.840.113549.1.1.2': 'md2WithRSAEncryption',
  '1.2.840.113549.1.1.4': 'md5WithRSAEncryption',
  '1.2.840.113549.1.1.5': 'sha1WithRSAEncryption',
  '1.3.14.3.2.29': 'sha1WithRSAEncryption',
  '1.2.840.113549.1.1.10': 'rsassaPss',
  '1.2.840.113549.1.1.11': 'sha256WithRSAEncryption',
  '1.2.840.113549.1.1.12': 'sha384WithRSAEncryption',
  '1.2.840.113549.1.1.13': 'sha512WithRSAEncryption',
  '1.2.840.10040.4.3': 'dsaWithSHA1',
  '1.2.840.10045.4.1': 'ecdsa-with-SHA1',
  '1.2.840.10045.4.3.2': 'ecdsa-with-SHA256',
  '1.2.840.10045.4.3.3': 'ecdsa-with-SHA384',
  '1.2.840.10045.4.3.4': 'ecdsa-with-SHA512',
  '1.3.101.112': 'Ed25519',
  '1.3.101.113': 'Ed448',
};

/**
 * The algorithm that a certificate is signed with (RFC 5280, 4.1.1.2): the second element of the outer sequence. Its
 * name, or the dotted identifier of one that is not known; empty for what is no certificate.
 */
export function signatureAlgorithm(certificate: Uint8Array): string {
  const outer = elementAt(certificate, 0);
  const body = outer && elementAt(certificate, outer.start);
  const algorithm = body && elementAt(certificate, body.end);
  const id = algorithm && elementAt(certificate, algorithm.start);
  if (id?.tag !== 0x06) return '';
  const dotted = objectIdentifier(certificate.subarray(id.start, id.end));
  return NAMES[dotted] ?? dotted;
}

function objectIdentifier(bytes: Uint8Array): string {
  const parts: number[] = [];
  let value = 0;
  for (const byte of bytes) {
    value = value * 128 + (byte & 0x7f);
    if (byte & 0x80) continue;
    if (parts.length === 0)
      parts.push(Math.min(2, Math.floor(value / 40)), value - 40 * Math.min(2, Math.floor(value / 40)));
    else parts.push(value);
    value = 0;
  }
  return parts.join('.');
}
