import zlib from 'node:zlib';

/** Larger fonts are left as they are, in bytes. */
const MOST_BYTES = 10_000_000;
const WOFF = 0x774f4646;
const WOFF_HEADER = 44;
const WOFF_ENTRY = 20;
const SFNT_ENTRY = 16;

/**
 * A font as WOFF 2 (W3C Recommendation, 2024), from WOFF 1.0 or a bare TrueType or OpenType font; undefined for what is
 * none of these, or is broken.
 */
export async function toWoff2(font: Uint8Array): Promise<Buffer | undefined> {
  if (font.length > MOST_BYTES) return undefined;
  try {
    const bare = isWoff(font) ? fromWoff(Buffer.from(font)) : font;
    if (!isSfnt(bare)) return undefined;
    const { compress } = await import('woff2-encoder');
    return Buffer.from(await compress(bare));
  } catch {
    return undefined;
  }
}

const tagOf = (font: Uint8Array): number =>
  font.length < 4 ? 0 : new DataView(font.buffer, font.byteOffset, 4).getUint32(0);
const isWoff = (font: Uint8Array) => tagOf(font) === WOFF;
/** 1.0, OTTO, true: fonts as OpenType 1.9 names them; collections are left out. */
const isSfnt = (font: Uint8Array) => [0x00010000, 0x4f54544f, 0x74727565].includes(tagOf(font));

/**
 * The font inside a WOFF 1.0 file (W3C Recommendation, 2012, 3 to 5): tables, each compressed or not, behind a directory.
 * @throws RangeError or an error of zlib for a broken one
 */
function fromWoff(woff: Buffer): Buffer {
  const tables = woff.readUInt16BE(12);
  const all = Array.from({ length: tables }, (_, i) => {
    const at = WOFF_HEADER + i * WOFF_ENTRY;
    const [offset, packed, length] = [woff.readUInt32BE(at + 4), woff.readUInt32BE(at + 8), woff.readUInt32BE(at + 12)];
    if (offset + packed > woff.length || length > MOST_BYTES) throw new RangeError('a table lies outside the file');
    const bytes = woff.subarray(offset, offset + packed);
    const content = packed < length ? zlib.inflateSync(bytes, { maxOutputLength: length }) : bytes;
    return { tag: woff.subarray(at, at + 4), checksum: woff.readUInt32BE(at + 16), content };
  });
  const power = 2 ** Math.floor(Math.log2(Math.max(1, tables)));
  const head = Buffer.alloc(12 + tables * SFNT_ENTRY);
  head.writeUInt32BE(woff.readUInt32BE(4), 0);
  head.writeUInt16BE(tables, 4);
  head.writeUInt16BE(power * 16, 6);
  head.writeUInt16BE(Math.log2(power), 8);
  head.writeUInt16BE((tables - power) * 16, 10);
  const parts: Buffer[] = [head];
  let offset = head.length;
  if (all.reduce((sum, t) => sum + t.content.length, 0) > MOST_BYTES) throw new RangeError('too large');
  all.forEach(({ tag, checksum, content }, i) => {
    const at = 12 + i * SFNT_ENTRY;
    tag.copy(head, at);
    head.writeUInt32BE(checksum, at + 4);
    head.writeUInt32BE(offset, at + 8);
    head.writeUInt32BE(content.length, at + 12);
    const padding = (4 - (content.length % 4)) % 4;
    parts.push(content, Buffer.alloc(padding));
    offset += content.length + padding;
  });
  return Buffer.concat(parts);
}
