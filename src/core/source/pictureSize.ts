/** Width and height of a picture in its own points. */
export interface PictureSize {
  readonly width: number;
  readonly height: number;
}

/**
 * Reads a picture's size from its first bytes: PNG (11.2.2), GIF89a (18), JPEG (T.81, B.2.2), WebP (RFC 9649),
 * AVIF (ISO 23008-12, ispe) and SVG (width, height or viewBox). Undefined for anything else.
 */
export function pictureSize(b: Uint8Array): PictureSize | undefined {
  const at = (i: number) => b[i] ?? 0;
  const be16 = (i: number) => (at(i) << 8) | at(i + 1);
  const be32 = (i: number) => be16(i) * 65_536 + be16(i + 2);
  const le16 = (i: number) => at(i) | (at(i + 1) << 8);
  const le24 = (i: number) => le16(i) | (at(i + 2) << 16);
  const tag = (i: number) => String.fromCharCode(at(i), at(i + 1), at(i + 2), at(i + 3));
  if (b.length < 16) return undefined;
  if (be32(0) === 0x89504e47) return { width: be32(16), height: be32(20) };
  if (tag(0) === 'GIF8') return { width: le16(6), height: le16(8) };
  if (tag(0) === 'RIFF' && tag(8) === 'WEBP') {
    if (tag(12) === 'VP8 ') return { width: le16(26) & 0x3fff, height: le16(28) & 0x3fff };
    if (tag(12) === 'VP8X') return { width: le24(24) + 1, height: le24(27) + 1 };
    if (tag(12) === 'VP8L') {
      const bits = le16(21) + le16(23) * 65_536;
      return { width: (bits & 0x3fff) + 1, height: ((bits >>> 14) & 0x3fff) + 1 };
    }
    return undefined;
  }
  if (tag(4) === 'ftyp') {
    for (let i = 0; i < Math.min(b.length - 20, 4000); i++)
      if (tag(i) === 'ispe') return { width: be32(i + 8), height: be32(i + 12) };
    return undefined;
  }
  if (be16(0) === 0xffd8) {
    for (let i = 2; i + 9 < b.length && at(i) === 0xff;) {
      const mark = at(i + 1);
      // A start of frame, and none of the three tables that share its range.
      if (mark >= 0xc0 && mark <= 0xcf && mark !== 0xc4 && mark !== 0xc8 && mark !== 0xcc)
        return { width: be16(i + 7), height: be16(i + 5) };
      i += mark === 0xff ? 1 : 2 + be16(i + 2);
    }
    return undefined;
  }
  return svgSize(b);
}

function svgSize(b: Uint8Array): PictureSize | undefined {
  const text = new TextDecoder().decode(b.subarray(0, 2000));
  const start = /<svg\b[^>]*>/i.exec(text)?.[0];
  if (!start) return undefined;
  const number = (name: string) =>
    Number(new RegExp(`\\s${name}\\s*=\\s*["']([\\d.]+)(?:px)?["']`).exec(start)?.[1] ?? NaN);
  const [, w, h] = /\sviewBox\s*=\s*["']\s*[\d.-]+[\s,]+[\d.-]+[\s,]+([\d.]+)[\s,]+([\d.]+)/.exec(start) ?? [];
  const width = number('width') || Number(w);
  const height = number('height') || Number(h);
  return width > 0 && height > 0 ? { width, height } : undefined;
}
