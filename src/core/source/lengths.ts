import { sizesWidth } from './srcset';

/**
 * CSS pixels of a length, percentage or calc() of sums (CSS Values 4, 6 and 10); undefined for anything else,
 * `auto` among it. `vw` counts against `room` unless a screen is given.
 */
export function readLength(
  text: string | undefined,
  room: number,
  fontPx: number,
  screenHeight = 0,
): number | undefined {
  const value = text?.trim().toLowerCase() ?? '';
  const whole = /^(-?[\d.]+)(px|r?em|%|v[wh]|[sdl]v[wh]|vmin|vmax|pt|ch|ex)$/.exec(value);
  if (whole) return one(Number(whole[1]), whole[2] ?? '', room, fontPx, screenHeight);
  if (value === '0') return 0;
  const call = /^(calc|min|max|clamp)\((.*)\)$/.exec(value);
  if (!call) return undefined;
  const parts = (call[2] ?? '').split(/,(?![^(]*\))/);
  const sums = parts.map((p) => sum(p, room, fontPx, screenHeight));
  if (sums.some((n) => n === undefined)) return undefined;
  const numbers = sums as number[];
  if (call[1] === 'min') return Math.min(...numbers);
  if (call[1] === 'max') return Math.max(...numbers);
  if (call[1] === 'clamp') return Math.max(numbers[0] ?? 0, Math.min(numbers[1] ?? 0, numbers[2] ?? Infinity));
  return numbers[0];
}

function sum(text: string, room: number, fontPx: number, screenHeight: number): number | undefined {
  let total = 0;
  let any = false;
  for (const [, sign, value, unit] of text.matchAll(
    /(?:^|\s)([+-]?)\s*([\d.]+)(px|r?em|%|v[wh]|[sdl]v[wh]|vmin|vmax|pt|ch|ex)/g,
  )) {
    any = true;
    const px = one(Number(value), unit ?? '', room, fontPx, screenHeight);
    total += sign === '-' ? -px : px;
  }
  return any && !/[*/]/.test(text) ? total : undefined;
}

function one(value: number, unit: string, room: number, fontPx: number, screenHeight: number): number {
  switch (unit) {
    case 'px':
      return value;
    case 'em':
      return value * fontPx;
    case 'rem':
      return value * 16;
    case 'pt':
      return (value * 4) / 3;
    case 'ch':
    case 'ex':
      return value * fontPx * 0.5;
    default:
      return (value / 100) * (/h$/.test(unit) && screenHeight > 0 ? screenHeight : room);
  }
}

/** Width that a sizes attribute states, in CSS pixels; 0 when there is none. */
export function lengthPx(sizes: string | undefined, screenWidth: number): number {
  return sizes === undefined ? 0 : sizesWidth(sizes, screenWidth);
}
