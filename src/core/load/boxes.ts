import type { SourceElement } from '../source/document';
import { readLength, type LengthBase } from '../source/lengths';
import type { Declared } from '../source/styling';

/** What is declared for an element, by property. */
export type Style = ReadonlyMap<string, Declared>;

/** Drawn inside a line, next to what stands before it. */
export const INLINE = new Set(
  'a abbr b bdi bdo br cite code em i kbd label mark q s samp small span strong sub sup time u var wbr'.split(' '),
);
/** Font sizes that browsers give to headings, in em (HTML, 15.3.7). */
const HEADINGS: Readonly<Record<string, number>> = { h1: 2, h2: 1.5, h3: 1.17, h4: 1, h5: 0.83, h6: 0.67 };

/** Lengths inside a box: the viewport counts as wide as the box, for want of better. */
export const inRoom = (room: number, fontPx: number, screenHeight = room): LengthBase => ({
  percentPx: room,
  fontPx,
  widthPx: room,
  heightPx: screenHeight,
});

/** Elements that are drawn as a picture. */
export const isPicture = (e: SourceElement) =>
  e.tag === 'img' ||
  e.tag === 'image' ||
  (e.tag === 'video' && (e.attributes.has('poster') || e.attributes.has('data-poster'))) ||
  (e.tag === 'input' && e.attributes.get('type')?.toLowerCase() === 'image');

/** True for what stands in a line. */
export function isInline(e: SourceElement, style: Style): boolean {
  const display = style.get('display')?.value ?? '';
  if (/^(block|flex|grid|table|list-item)/.test(display)) return false;
  if (/^(absolute|fixed)/.test(style.get('position')?.value ?? '')) return false;
  return /^inline/.test(display) || INLINE.has(e.tag) || isPicture(e) || e.tag === 'svg' || e.tag === 'picture';
}

/** True for what takes no room (HTML, 15.3.1; CSS Display 3). */
export function hidden(e: SourceElement, style: Style): boolean {
  const display = style.get('display')?.value;
  if (display !== undefined) return display === 'none';
  return (
    e.attributes.has('hidden') ||
    (e.tag === 'dialog' && !e.attributes.has('open')) ||
    (e.tag === 'input' && e.attributes.get('type')?.toLowerCase() === 'hidden')
  );
}

/** Font size in CSS pixels. */
export function fontOf(e: SourceElement, style: Style, parentPx: number): number {
  const stated =
    style.get('font-size')?.value ??
    /(?:^|\s)([\d.]+(?:px|r?em|%|vw|pt))(?:\/|\s)/.exec(style.get('font')?.value ?? '')?.[1];
  return readLength(stated, inRoom(parentPx, parentPx)) ?? parentPx * (HEADINGS[e.tag] ?? 1);
}

/** Line height in font sizes. */
export function lineHeightOf(style: Style, fontPx: number, inherited: number): number {
  const stated =
    style.get('line-height')?.value ?? /\/\s*([\d.]+(?:px|em|%)?)/.exec(style.get('font')?.value ?? '')?.[1];
  if (stated === undefined) return inherited;
  if (/^[\d.]+$/.test(stated)) return Number(stated);
  const px = readLength(stated, inRoom(fontPx, fontPx));
  return px === undefined ? inherited : px / fontPx;
}

/** Declared width, in CSS pixels. */
export const widthOf = (style: Style, room: number, fontPx: number) =>
  readLength(style.get('width')?.value, inRoom(room, fontPx));
/** Declared greatest width, in CSS pixels. */
export const maxWidthOf = (style: Style, room: number, fontPx: number) =>
  readLength(style.get('max-width')?.value, inRoom(room, fontPx)) ?? Infinity;
/** Declared height; a percentage needs a parent with one and counts as none. */
export const heightOf = (style: Style, screenHeight: number, fontPx: number) => {
  const value = style.get('height')?.value;
  return value?.endsWith('%') ? undefined : readLength(value, inRoom(screenHeight, fontPx));
};
/** Declared least height. */
export const minHeightOf = (style: Style, screenHeight: number, fontPx: number) => {
  const value = style.get('min-height')?.value;
  return (value?.endsWith('%') ? undefined : readLength(value, inRoom(screenHeight, fontPx))) ?? 0;
};

/** Declared aspect-ratio as width to height. */
export function ratioOf(style: Style): number | undefined {
  const [, w, h] = /([\d.]+)\s*(?:\/\s*([\d.]+))?/.exec(style.get('aspect-ratio')?.value ?? '') ?? [];
  return w === undefined ? undefined : Number(w) / Number(h ?? 1) || undefined;
}

/** Width to height, where both are known. */
export const proportion = (w: number | undefined, h: number | undefined) => (w && h ? w / h : undefined);

function sides(
  style: Style,
  name: string,
  room: number,
  fontPx: number,
): { top: number; right: number; bottom: number; left: number; auto: boolean } {
  const parts = (style.get(name)?.value ?? '').split(/\s+(?![^(]*\))/).filter(Boolean);
  const pick = (i: number) => parts[i] ?? parts[i - 2] ?? parts[0];
  const px = (side: string, i: number) =>
    readLength(style.get(`${name}-${side}`)?.value ?? pick(i), inRoom(room, fontPx)) ?? 0;
  const auto = pick(1) === 'auto' || style.get(`${name}-left`)?.value === 'auto';
  return { top: px('top', 0), right: px('right', 1), bottom: px('bottom', 2), left: px('left', 3), auto };
}

/** Padding on the four sides. */
export const paddingOf = (style: Style, room: number, fontPx: number) => sides(style, 'padding', room, fontPx);

/** Margins, with those that browsers give to text when nothing is declared (HTML, 15.3). */
export function marginsOf(e: SourceElement, style: Style, room: number, fontPx: number) {
  const stated = sides(style, 'margin', room, fontPx);
  if (style.has('margin') || style.has('margin-top')) return stated;
  const own =
    e.tag === 'body'
      ? 8
      : e.tag === 'p' || e.tag === 'ul' || e.tag === 'ol' || e.tag === 'figure'
        ? fontPx / 2
        : HEADINGS[e.tag]
          ? fontPx * 0.34
          : 0;
  const aside = e.tag === 'body' ? 8 : e.tag === 'figure' ? 40 : 0;
  return { ...stated, top: own, bottom: own, left: aside, right: aside };
}

/** Columns of a grid or a row of boxes. */
export function columnsOf(style: Style, children: number, width: number): number {
  const display = style.get('display')?.value ?? '';
  if (/flex/.test(display)) {
    const along = style.get('flex-direction')?.value ?? style.get('flex-flow')?.value ?? 'row';
    return /column/.test(along) || /wrap/.test(style.get('flex-wrap')?.value ?? along) ? 1 : Math.max(1, children);
  }
  if (!/grid/.test(display)) return 1;
  const template = style.get('grid-template-columns')?.value ?? '';
  const repeat = /repeat\(\s*(\d+|auto-fi\w+)\s*,(?:\s*minmax\(\s*([\d.]+)px)?/.exec(template);
  if (repeat?.[1] && /^\d+$/.test(repeat[1])) return Number(repeat[1]);
  if (repeat?.[2]) return Math.max(1, Math.floor(width / Number(repeat[2])));
  return Math.max(1, template.split(/\s+(?![^(]*\))/).filter(Boolean).length);
}
