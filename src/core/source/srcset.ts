import { mediaMatches } from './media';

/** One image candidate string of a srcset (HTML, section 4.8.4.2.1). */
export interface SrcsetCandidate {
  readonly url: string;
  readonly width?: number;
  readonly density?: number;
}

/** Parses a srcset attribute; candidates that do not follow the grammar are left out. */
export function parseSrcset(value: string): SrcsetCandidate[] {
  const out: SrcsetCandidate[] = [];
  let rest = value;
  for (;;) {
    rest = rest.replace(/^[\s,]+/, '');
    if (!rest) return out;
    const url = /^\S+/.exec(rest)?.[0] ?? '';
    rest = rest.slice(url.length);
    if (url.endsWith(',')) {
      out.push({ url: url.replace(/,+$/, ''), density: 1 });
      continue;
    }
    const comma = rest.indexOf(',');
    const descriptor = (comma < 0 ? rest : rest.slice(0, comma)).trim();
    rest = comma < 0 ? '' : rest.slice(comma + 1);
    const width = /^(\d+)w(\s+\d+h)?$/.exec(descriptor)?.[1];
    const density = /^([\d.]+)x$/.exec(descriptor)?.[1];
    if (width) out.push({ url, width: Number(width) });
    else if (density) out.push({ url, density: Number(density) });
    else if (descriptor === '') out.push({ url, density: 1 });
  }
}

/** Width in CSS pixels that a `sizes` attribute promises on this screen; understands px, vw, em and one calc(vw - px). */
export function sizesWidth(sizes: string | undefined, screenWidthPx: number): number {
  for (const part of (sizes ?? '').split(/,(?![^(]*\))/)) {
    const text = part.trim();
    const length = /(calc\(.*\)|[\d.]+(px|vw|em|rem))$/.exec(text)?.[0];
    if (!length) continue;
    const media = text.slice(0, -length.length).trim();
    if (media && !mediaMatches(media, screenWidthPx)) continue;
    return lengthPx(length, screenWidthPx);
  }
  return screenWidthPx;
}

function lengthPx(length: string, screenWidthPx: number): number {
  let sum = 0;
  for (const [, sign, value, unit] of length.matchAll(/([+-]?)\s*([\d.]+)(px|vw|em|rem)/g)) {
    const n = Number(value) * (unit === 'vw' ? screenWidthPx / 100 : unit === 'px' ? 1 : 16);
    sum += sign === '-' ? -n : n;
  }
  return sum;
}

/**
 * The candidate a browser takes: the least dense one that is dense enough, else the densest. The standard leaves it
 * open (HTML, 4.8.4.3.4); this is what Chromium does.
 */
export function pickCandidate(
  srcset: string,
  sizes: string | undefined,
  screen: { readonly widthPx: number; readonly density: number },
): string | undefined {
  const candidates = parseSrcset(srcset);
  if (candidates.length === 0) return undefined;
  const shown = sizesWidth(sizes, screen.widthPx);
  const ranked = candidates
    .map((c) => ({ url: c.url, density: c.width !== undefined ? c.width / Math.max(1, shown) : (c.density ?? 1) }))
    .sort((a, b) => a.density - b.density);
  return (ranked.find((c) => c.density >= screen.density) ?? ranked.at(-1))?.url;
}
