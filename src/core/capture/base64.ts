const B64 = new Int16Array(256).fill(-1);
[...'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'].forEach((c, i) => {
  B64[c.charCodeAt(0)] = i;
});
B64[0x2d] = 62;
B64[0x5f] = 63;

/** Base64 (RFC 4648 section 4 and 5) from ASCII bytes; escaped slashes and white space are passed over. */
export function decodeBase64(input: Uint8Array): Uint8Array {
  const out = new Uint8Array(Math.floor((input.length * 3) / 4) + 3);
  let length = 0;
  let bits = 0;
  let have = 0;
  for (const byte of input) {
    if (byte === 0x3d) break;
    const value = B64[byte] ?? -1;
    if (value < 0) {
      if (byte === 0x5c || byte <= 0x20) continue;
      throw new Error('not base64');
    }
    bits = ((bits << 6) | value) & 0xffffff;
    have += 6;
    if (have >= 8) {
      have -= 8;
      out[length++] = (bits >> have) & 0xff;
    }
  }
  return out.subarray(0, length);
}

/** Bytes that are encoded at a time: a multiple of three, few enough for the arguments of one call. */
const CHUNK = 24_573;

/** Bytes as base64 (RFC 4648, 4). */
export function encodeBase64(bytes: Uint8Array): string {
  const out: string[] = [];
  for (let at = 0; at < bytes.length; at += CHUNK) out.push(btoa(latin1(bytes.subarray(at, at + CHUNK))));
  return out.join('');
}

/** Bytes as text in which every byte is one character (ISO 8859-1). */
export function latin1(bytes: Uint8Array): string {
  const out: string[] = [];
  for (let at = 0; at < bytes.length; at += CHUNK) out.push(String.fromCharCode(...bytes.subarray(at, at + CHUNK)));
  return out.join('');
}
