import { generate, type CssNode } from 'css-tree';
import { rememberByText } from '../remember';
import { readLength } from './lengths';
import { parseCss } from './parseCss';

/** What media queries are evaluated for. What is left out is not told. */
export interface Screen {
  readonly widthPx: number;
  readonly heightPx?: number;
  readonly density?: number;
  readonly touch?: boolean;
}

/** Undefined: the screen does not tell. */
type Verdict = boolean | undefined;

type Query = Extract<CssNode, { type: 'MediaQuery' }>;

/** The queries of a list; undefined for one that cannot be read, which applies to nothing (Media Queries 4, 3.2). */
function parseList(text: string): readonly (Query | undefined)[] {
  return splitAtCommas(text).map((part) => {
    try {
      const list = parseCss(part, { context: 'mediaQueryList' });
      const [query] = list.type === 'MediaQueryList' ? list.children : [];
      return query?.type === 'MediaQuery' ? query : undefined;
    } catch {
      return undefined;
    }
  });
}

/** A page asks the same few lists for every rule and every element. */
const readList = rememberByText(parseList, 1000, 0);

/** Parts of a list between commas that are in no brackets. */
export function splitAtCommas(text: string): string[] {
  const out: string[] = [];
  let depth = 0;
  let start = 0;
  for (let i = 0; i < text.length; i++) {
    if (text[i] === '(') depth++;
    else if (text[i] === ')') depth--;
    else if (text[i] === ',' && depth <= 0) {
      out.push(text.slice(start, i));
      start = i + 1;
    }
  }
  out.push(text.slice(start));
  return out;
}

/**
 * Whether a media query list applies to a screen (Media Queries 4 and 5). A light scheme, full motion and scripting are
 * assumed. What browsers do not know never applies; what the screen does not tell counts as applying.
 */
export function mediaMatches(media: string | undefined, screen: Screen): boolean {
  if (!media?.trim()) return true;
  return readList(media).some((query) => {
    if (!query) return false;
    const type = query.mediaType?.toLowerCase() ?? 'all';
    const ofType = type === 'all' || type === 'screen';
    const holds = ofType ? (query.condition ? condition(query.condition, screen) : true) : false;
    if (query.modifier?.toLowerCase() !== 'not') return holds !== false;
    return holds !== true;
  });
}

/** Three-valued logic (Media Queries 4, 3.1), where "unknown" is what the screen does not tell. */
function condition(node: CssNode, screen: Screen): Verdict {
  if (node.type === 'Feature') return feature(node.name.toLowerCase(), node.value, screen);
  if (node.type === 'FeatureRange') return range(node, screen);
  if (node.type !== 'Condition') return false;
  let result: Verdict;
  let operator = '';
  let negate = false;
  let first = true;
  for (const child of node.children) {
    if (child.type === 'Identifier') {
      const word = child.name.toLowerCase();
      if (word === 'not') negate = true;
      else if (word === 'and' || word === 'or') operator = word;
      else return false;
      continue;
    }
    const own = condition(child, screen);
    const value = negate && own !== undefined ? !own : own;
    negate = false;
    result = first ? value : operator === 'or' ? either(result, value) : both(result, value);
    first = false;
  }
  return result;
}

const both = (a: Verdict, b: Verdict): Verdict =>
  a === false || b === false ? false : a === undefined || b === undefined ? undefined : true;
const either = (a: Verdict, b: Verdict): Verdict =>
  a === true || b === true ? true : a === undefined || b === undefined ? undefined : false;

/** Features with one value on the screens that are recorded; `undefined` where recordings do not tell. */
const FIXED: Readonly<Record<string, readonly string[] | undefined>> = {
  'prefers-color-scheme': ['light'],
  'prefers-reduced-motion': ['no-preference'],
  'prefers-reduced-transparency': ['no-preference'],
  'prefers-reduced-data': ['no-preference'],
  'prefers-contrast': ['no-preference'],
  'forced-colors': ['none'],
  'inverted-colors': ['none'],
  scripting: ['enabled'],
  'display-mode': ['browser'],
  'dynamic-range': ['standard'],
  'video-dynamic-range': ['standard'],
  'color-gamut': ['srgb'],
  update: ['fast'],
  'overflow-block': ['scroll'],
  'overflow-inline': ['scroll'],
  scan: undefined,
  'nav-controls': undefined,
  'environment-blending': undefined,
};
/** Features of a number that are the same on all these screens. */
const NUMBERS: Readonly<Record<string, number>> = {
  color: 8,
  'color-index': 0,
  monochrome: 0,
  grid: 0,
  '-webkit-transform-3d': 1,
};

function feature(name: string, value: CssNode | null, screen: Screen): Verdict {
  const plain = name.replace(/^-webkit-(min-|max-)?device-pixel-ratio$/, '$1resolution');
  const [, bound, base = ''] = /^(min-|max-)?(.+)$/.exec(plain) ?? [];
  const word = value?.type === 'Identifier' ? value.name.toLowerCase() : undefined;
  if (Object.hasOwn(FIXED, base)) {
    const own = FIXED[base];
    if (own === undefined) return undefined;
    return value === null
      ? !own.includes('none') && !own.includes('no-preference')
      : word !== undefined && own.includes(word);
  }
  switch (base) {
    case 'orientation':
      return screen.heightPx === undefined || word === undefined
        ? undefined
        : (word === 'portrait') === screen.heightPx >= screen.widthPx;
    case 'hover':
    case 'any-hover':
      return screen.touch === undefined
        ? undefined
        : value === null
          ? !screen.touch
          : (word === 'hover') !== screen.touch;
    case 'pointer':
    case 'any-pointer':
      return value === null || word === 'none'
        ? value === null
        : screen.touch === undefined
          ? undefined
          : (word === 'coarse') === screen.touch;
  }
  const actual = actualOf(base, screen);
  if (actual === false) return false;
  if (value === null) return actual === undefined ? undefined : actual > 0;
  const wanted = numberOf(value, screen);
  if (wanted === undefined) return false;
  return actual === undefined
    ? undefined
    : compare(actual, bound === 'min-' ? '>=' : bound === 'max-' ? '<=' : '=', wanted);
}

function range(node: Extract<CssNode, { type: 'FeatureRange' }>, screen: Screen): Verdict {
  const nameFirst = node.left.type === 'Identifier';
  const named = nameFirst ? node.left : node.middle;
  if (named.type !== 'Identifier') return false;
  const actual = actualOf(named.name.toLowerCase(), screen);
  if (actual === false) return false;
  if (actual === undefined) return undefined;
  const holds = (value: CssNode | null | undefined, comparison: string, flipped: boolean): Verdict => {
    if (!value) return true;
    const wanted = numberOf(value, screen);
    if (wanted === undefined) return false;
    return flipped ? compare(wanted, comparison, actual) : compare(actual, comparison, wanted);
  };
  return nameFirst
    ? holds(node.middle, node.leftComparison, false)
    : both(holds(node.left, node.leftComparison, true), holds(node.right, node.rightComparison ?? '', false));
}

/** False for a feature that no browser knows. */
function actualOf(name: string, screen: Screen): number | undefined | false {
  const { widthPx, heightPx } = screen;
  switch (name) {
    case 'width':
    case 'device-width':
      return widthPx;
    case 'height':
    case 'device-height':
      return heightPx;
    case 'aspect-ratio':
    case 'device-aspect-ratio':
      return heightPx === undefined ? undefined : widthPx / heightPx;
    case 'resolution':
      return screen.density;
    default:
      return Object.hasOwn(NUMBERS, name) ? NUMBERS[name] : false;
  }
}

function numberOf(node: CssNode, screen: Screen): number | undefined {
  switch (node.type) {
    case 'Number':
      return Number(node.value);
    case 'Ratio': {
      const left = numberOf(node.left, screen);
      const right = node.right ? numberOf(node.right, screen) : 1;
      return left === undefined || !right ? undefined : left / right;
    }
    case 'Dimension': {
      const value = Number(node.value);
      const unit = node.unit.toLowerCase();
      if (unit === 'dppx' || unit === 'x') return value;
      if (unit === 'dpi') return value / 96;
      if (unit === 'dpcm') return (value * 2.54) / 96;
      return lengthOf(`${node.value}${unit}`, screen);
    }
    case 'Function':
      return lengthOf(generate(node), screen);
    default:
      return undefined;
  }
}

/** In media queries an em is the size that the browser starts from (Media Queries 4, 1.3). */
function lengthOf(text: string, screen: Screen): number | undefined {
  return readLength(text, { fontPx: 16, widthPx: screen.widthPx, heightPx: screen.heightPx });
}

function compare(actual: number, comparison: string, wanted: number): boolean {
  switch (comparison) {
    case '<':
      return actual < wanted;
    case '<=':
      return actual <= wanted;
    case '>':
      return actual > wanted;
    case '>=':
      return actual >= wanted;
    default:
      return Math.abs(actual - wanted) < 0.01;
  }
}

/** Media types that browsers gave up (Media Queries 4, 2.3). */
const GONE = new Set(['aural', 'braille', 'embossed', 'handheld', 'projection', 'tty', 'tv', 'speech']);

/**
 * True when no screen of today can match: a type that no browser has any more, `not all`, or a least width above the
 * greatest. `print` is for printing and never counts.
 */
export function neverMatches(media: string | undefined): boolean {
  if (!media?.trim()) return false;
  return readList(media).every((query) => {
    if (!query) return true;
    const type = query.mediaType?.toLowerCase() ?? 'all';
    if (query.modifier?.toLowerCase() === 'not') return type === 'all' && !query.condition;
    if (GONE.has(type)) return true;
    let least = 0;
    let most = Infinity;
    const children = query.condition?.type === 'Condition' ? [...query.condition.children] : [];
    if (children.some((c) => c.type === 'Identifier' && c.name.toLowerCase() !== 'and')) return false;
    for (const c of children) {
      if (c.type !== 'Feature' || !c.value) continue;
      const px = numberOf(c.value, { widthPx: 1000 });
      if (px === undefined) continue;
      if (c.name.toLowerCase() === 'min-width') least = Math.max(least, px);
      if (c.name.toLowerCase() === 'max-width') most = Math.min(most, px);
    }
    return least > most || most < 100;
  });
}

/** The screen a capture was made on. */
export function screenOf(conditions: {
  readonly screenWidth: number;
  readonly screenHeight: number;
  readonly density: number;
  readonly touch: boolean;
}): Screen & { readonly density: number } {
  return {
    widthPx: conditions.screenWidth,
    heightPx: conditions.screenHeight,
    density: conditions.density,
    touch: conditions.touch,
  };
}
