import type { CssNode } from 'css-tree';
import { parseCss } from './parseCss';

/** What relative lengths are taken of, in CSS pixels; a length of a kind that is left out cannot be read. */
export interface LengthBase {
  /** What a percentage is taken of. */
  readonly percentPx?: number;
  readonly fontPx: number;
  readonly widthPx: number;
  readonly heightPx?: number;
}

/**
 * CSS pixels of a length, percentage or math function of them (CSS Values 4, 6 and 10: calc, min, max, clamp, abs, sign
 * aside); undefined for anything else, `auto` among it.
 */
export function readLength(text: string | undefined, base: LengthBase): number | undefined {
  const value = text?.trim().toLowerCase() ?? '';
  const plain = /^([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)([a-z]+|%)$/.exec(value);
  if (plain) return inPixels(Number(plain[1]), plain[2] ?? '', base);
  if (/^[+-]?0(\.0*)?$/.test(value)) return 0;
  if (!/^[a-z-]+\(/.test(value)) return undefined;
  try {
    const tree = parseCss(value, { context: 'value' });
    const result = tree.type === 'Value' ? sum([...tree.children], base) : undefined;
    return result?.isLength && Number.isFinite(result.value) ? result.value : undefined;
  } catch {
    return undefined;
  }
}

/** A length in CSS pixels, or a bare number. */
interface Quantity {
  readonly value: number;
  readonly isLength: boolean;
}

/** Evaluates a css-tree list: products before sums (CSS Values 4, 10.8). */
function sum(nodes: readonly CssNode[], base: LengthBase): Quantity | undefined {
  let total: Quantity | undefined;
  let product: Quantity | undefined;
  let sign = 1;
  let pending: '*' | '/' | undefined;
  const close = (): boolean => {
    if (!product || pending) return false;
    const signed = { ...product, value: sign * product.value };
    if (total && total.isLength !== signed.isLength) return false;
    total = total ? { ...signed, value: total.value + signed.value } : signed;
    product = undefined;
    return true;
  };
  for (const node of nodes) {
    if (node.type === 'WhiteSpace') continue;
    if (node.type === 'Operator') {
      const operator = node.value.trim();
      if (operator === '*' || operator === '/') pending = operator;
      else if ((operator === '+' || operator === '-') && close()) sign = operator === '-' ? -1 : 1;
      else return undefined;
      continue;
    }
    const operand = quantity(node, base);
    if (!operand) return undefined;
    if (!product) product = operand;
    else if (pending === '*') {
      if (product.isLength && operand.isLength) return undefined;
      product = { value: product.value * operand.value, isLength: product.isLength || operand.isLength };
    } else if (pending === '/' && !operand.isLength) product = { ...product, value: product.value / operand.value };
    // A signed number after a space: `1px -2px` as written without a space behind the sign.
    else return undefined;
    pending = undefined;
  }
  return close() ? total : undefined;
}

function quantity(node: CssNode, base: LengthBase): Quantity | undefined {
  switch (node.type) {
    case 'Number':
      return { value: Number(node.value), isLength: false };
    case 'Percentage':
    case 'Dimension': {
      const unit = node.type === 'Percentage' ? '%' : node.unit.toLowerCase();
      const value = inPixels(Number(node.value), unit, base);
      return value === undefined ? undefined : { value, isLength: true };
    }
    case 'Parentheses':
      return sum([...node.children], base);
    case 'Function':
      return mathFunction(node.name.toLowerCase(), [...node.children], base);
    default:
      return undefined;
  }
}

function mathFunction(name: string, nodes: readonly CssNode[], base: LengthBase): Quantity | undefined {
  const lists: CssNode[][] = [[]];
  for (const node of nodes) {
    if (node.type === 'Operator' && node.value.trim() === ',') lists.push([]);
    else lists.at(-1)?.push(node);
  }
  const read = lists.map((list) => sum(list, base));
  if (read.some((q) => q === undefined)) return undefined;
  const parts = read as Quantity[];
  const [first] = parts;
  if (!first || parts.some((q) => q.isLength !== first.isLength)) return undefined;
  const values = parts.map((q) => q.value);
  const [a = 0, b = 0, c = 0] = values;
  switch (name) {
    case 'calc':
    case '-webkit-calc':
      return parts.length === 1 ? first : undefined;
    case 'min':
      return { ...first, value: Math.min(...values) };
    case 'max':
      return { ...first, value: Math.max(...values) };
    case 'clamp':
      return parts.length === 3 ? { ...first, value: Math.max(a, Math.min(b, c)) } : undefined;
    case 'abs':
      return parts.length === 1 ? { ...first, value: Math.abs(a) } : undefined;
    default:
      return undefined;
  }
}

const PX_OF: Readonly<Record<string, number>> = {
  px: 1,
  in: 96,
  cm: 96 / 2.54,
  mm: 96 / 25.4,
  q: 96 / 101.6,
  pt: 96 / 72,
  pc: 16,
};

/** Fonts are not measured: an `ex` or `ch` counts as half the font size. */
function inPixels(value: number, unit: string, base: LengthBase): number | undefined {
  const absolute = PX_OF[unit];
  if (absolute !== undefined) return value * absolute;
  const viewport = /^[sdl]?v(w|h|i|b|min|max)$/.exec(unit)?.[1];
  if (viewport) {
    const { widthPx, heightPx } = base;
    const of =
      viewport === 'w' || viewport === 'i'
        ? widthPx
        : heightPx === undefined
          ? undefined
          : viewport === 'h' || viewport === 'b'
            ? heightPx
            : Math[viewport === 'min' ? 'min' : 'max'](widthPx, heightPx);
    return of === undefined ? undefined : (value / 100) * of;
  }
  switch (unit) {
    case '%':
      return base.percentPx === undefined ? undefined : (value / 100) * base.percentPx;
    case 'em':
      return value * base.fontPx;
    case 'rem':
      return value * 16;
    case 'ch':
    case 'ex':
      return value * base.fontPx * 0.5;
    case 'lh':
    case 'rlh':
      return value * (unit === 'lh' ? base.fontPx : 16) * 1.2;
    default:
      return undefined;
  }
}
