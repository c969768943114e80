import { readLength } from './lengths';
import { mediaMatches, splitAtCommas, type Screen } from './media';

/** One image candidate string of a srcset (HTML, section 4.8.4.2.1). */
export interface SrcsetCandidate {
  readonly url: string;
  readonly width?: number;
  readonly density?: number;
  /** Where its address begins in the attribute's value. */
  readonly start: number;
}

/** Parses a srcset attribute; candidates that do not follow the grammar are left out. */
export function parseSrcset(value: string): SrcsetCandidate[] {
  const out: SrcsetCandidate[] = [];
  let at = 0;
  for (;;) {
    while (at < value.length && /[\s,]/.test(value[at] as string)) at++;
    if (at >= value.length) return out;
    const start = at;
    while (at < value.length && !/\s/.test(value[at] as string)) at++;
    const url = value.slice(start, at);
    if (url.endsWith(',')) {
      out.push({ url: url.replace(/,+$/, ''), density: 1, start });
      continue;
    }
    const comma = endOfDescriptors(value, at);
    const descriptor = value.slice(at, comma).trim();
    at = comma + 1;
    const width = /^(\d+)w(\s+\d+h)?$/.exec(descriptor)?.[1];
    const density = /^([\d.]+)x$/.exec(descriptor)?.[1];
    if (width) out.push({ url, width: Number(width), start });
    else if (density) out.push({ url, density: Number(density), start });
    else if (descriptor === '') out.push({ url, density: 1, start });
  }
}

/** The comma that ends a candidate; one in brackets does not. */
function endOfDescriptors(value: string, from: number): number {
  let depth = 0;
  for (let i = from; i < value.length; i++) {
    if (value[i] === '(') depth++;
    else if (value[i] === ')') depth--;
    else if (value[i] === ',' && depth <= 0) return i;
  }
  return value.length;
}

/**
 * Width in CSS pixels that a `sizes` attribute promises on a screen (HTML, 4.8.4.2.2): the first length whose media apply,
 * else the whole width.
 */
export function sizesWidth(sizes: string | undefined, screen: Screen): number {
  for (const part of splitAtCommas(sizes ?? '')) {
    const text = part.trim();
    const length = lastValue(text);
    const px = readLength(length, { fontPx: 16, widthPx: screen.widthPx, heightPx: screen.heightPx });
    if (px === undefined || px < 0) continue;
    const media = text.slice(0, text.length - length.length).trim();
    if (!media || mediaMatches(media, screen)) return px;
  }
  return screen.widthPx;
}

/** The last component value of a text: a word, or a function with its brackets. */
function lastValue(text: string): string {
  if (!text.endsWith(')')) return /\S*$/.exec(text)?.[0] ?? '';
  let depth = 0;
  let at = text.length - 1;
  for (; at >= 0; at--) {
    if (text[at] === ')') depth++;
    else if (text[at] === '(' && --depth === 0) break;
  }
  return text.slice(Math.max(0, at - (/[a-z-]*$/i.exec(text.slice(0, Math.max(0, at)))?.[0].length ?? 0)));
}

/**
 * The candidate a browser takes: the least dense one that is dense enough, else the densest. The standard leaves it
 * open (HTML, 4.8.4.3.4); this is what Chromium does.
 */
export function pickCandidate(
  srcset: string,
  sizes: string | undefined,
  screen: Screen & { readonly density: number },
): string | undefined {
  const candidates = parseSrcset(srcset);
  if (candidates.length === 0) return undefined;
  const shown = sizesWidth(sizes, screen);
  const ranked = candidates
    .map((c) => ({ url: c.url, density: c.width !== undefined ? c.width / Math.max(1, shown) : (c.density ?? 1) }))
    .sort((a, b) => a.density - b.density);
  return (ranked.find((c) => c.density >= screen.density) ?? ranked.at(-1))?.url;
}
