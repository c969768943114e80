/** What media queries are held against; a bare number is the width alone. */
export interface Screen {
  readonly widthPx: number;
  readonly heightPx?: number;
  readonly density?: number;
  readonly touch?: boolean;
}

/** Media types that name no browser on a screen (Media Queries 4, section 2.3); print is alive, the rest is history. */
const OTHER_TYPES = /^\s*(only\s+)?(print|speech|aural|braille|embossed|handheld|projection|tty|tv)\b/;

/**
 * Whether a media query list applies to a screen: media types, width, height, orientation, resolution, hover,
 * pointer, colour scheme and reduced motion are understood, in both ways of writing ranges; a light scheme and full
 * motion are assumed, and what is not understood counts as matching (Media Queries 4 and 5, in part).
 */
export function mediaMatches(media: string | undefined, screen: Screen | number): boolean {
  if (!media?.trim()) return true;
  const given = typeof screen === 'number' ? { widthPx: screen } : screen;
  return media
    .toLowerCase()
    .split(',')
    .some((query) => {
      const negated = /^\s*not\s+(all|screen)\b/.test(query);
      const own = negated ? query.replace(/^\s*not\s+/, '') : query;
      return queryMatches(own, given) !== negated;
    });
}

function queryMatches(query: string, screen: Screen): boolean {
  if (OTHER_TYPES.test(query)) return false;
  for (const [whole, inner] of query.matchAll(/\(([^()]*)\)/g)) {
    const negated = new RegExp(`\\bnot\\s+${escape(whole)}`).test(query);
    const holds = featureMatches(inner ?? '', screen);
    if (holds !== undefined && holds === negated) return false;
  }
  return true;
}

const escape = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

/** Undefined for a feature that is not understood. */
function featureMatches(text: string, screen: Screen): boolean | undefined {
  const named = /^\s*(?:(min|max)-)?([a-z-]+?)\s*:\s*(.+?)\s*$/.exec(text);
  if (named) {
    const [, bound, feature = '', value = ''] = named;
    switch (feature.replace(/^-webkit-(min-|max-)?device-pixel-ratio$/, 'resolution')) {
      case 'width':
      case 'device-width':
        return compare(bound, screen.widthPx, lengthOf(value));
      case 'height':
      case 'device-height':
        return screen.heightPx === undefined ? undefined : compare(bound, screen.heightPx, lengthOf(value));
      case 'resolution':
        return screen.density === undefined
          ? undefined
          : compare(bound ?? /-webkit-(min|max)/.exec(feature)?.[1], screen.density, dotsOf(value));
      case 'orientation':
        return screen.heightPx === undefined ? undefined : (value === 'portrait') === screen.heightPx >= screen.widthPx;
      case 'prefers-color-scheme':
        return value === 'light';
      case 'prefers-reduced-motion':
      case 'prefers-contrast':
        return value === 'no-preference';
      case 'hover':
      case 'any-hover':
        return screen.touch === undefined ? undefined : (value === 'hover') !== screen.touch;
      case 'pointer':
      case 'any-pointer':
        return screen.touch === undefined || value === 'none' ? undefined : (value === 'coarse') === screen.touch;
      default:
        return undefined;
    }
  }
  const range = /^\s*(?:([\d.]+[a-z]+)\s*(<=?)\s*)?(width|height)\s*(?:(<=?|>=?)\s*([\d.]+[a-z]+))?\s*$/.exec(text);
  if (!range) return undefined;
  const [, low, , feature, sign, high] = range;
  const actual = feature === 'width' ? screen.widthPx : screen.heightPx;
  if (actual === undefined) return undefined;
  if (low !== undefined && actual < lengthOf(low)) return false;
  if (high === undefined || sign === undefined) return true;
  return sign.startsWith('<') ? actual <= lengthOf(high) : actual >= lengthOf(high);
}

function compare(bound: string | undefined, actual: number, value: number): boolean {
  if (Number.isNaN(value)) return true;
  return bound === 'min' ? actual >= value : bound === 'max' ? actual <= value : Math.abs(actual - value) < 0.01;
}

/** CSS pixels of a length; 16 px to an em. */
function lengthOf(text: string): number {
  const [, value, unit] = /^([\d.]+)\s*(px|em|rem|)$/.exec(text.trim()) ?? [];
  return value === undefined ? NaN : Number(value) * (unit === 'em' || unit === 'rem' ? 16 : 1);
}

function dotsOf(text: string): number {
  const [, value, unit] = /^([\d.]+)\s*(dppx|x|dpi|dpcm|)$/.exec(text.trim()) ?? [];
  return value === undefined ? NaN : Number(value) / (unit === 'dpi' ? 96 : unit === 'dpcm' ? 96 / 2.54 : 1);
}

/**
 * True when no screen of today can match: a type that no browser has any more, or a least width above the greatest.
 * `print` is for printing and never counts.
 */
export function neverMatches(media: string | undefined): boolean {
  if (!media?.trim()) return false;
  return media
    .toLowerCase()
    .split(',')
    .every((query) => {
      if (/^\s*(only\s+)?(aural|braille|embossed|handheld|projection|tty|tv)\b/.test(query)) return true;
      if (/^\s*not\s+all\b\s*$/.test(query)) return true;
      const least = /\(\s*min-width\s*:\s*([^)]+)\)/.exec(query)?.[1];
      const most = /\(\s*max-width\s*:\s*([^)]+)\)/.exec(query)?.[1];
      const leastPx = least === undefined ? 0 : lengthOf(least);
      const mostPx = most === undefined ? Infinity : lengthOf(most);
      return leastPx > mostPx || mostPx < 100;
    });
}

/** The screen a capture was made on. */
export function screenOf(conditions: {
  readonly screenWidth: number;
  readonly screenHeight: number;
  readonly density: number;
  readonly touch: boolean;
}): Screen {
  return {
    widthPx: conditions.screenWidth,
    heightPx: conditions.screenHeight,
    density: conditions.density,
    touch: conditions.touch,
  };
}
