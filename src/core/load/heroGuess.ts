import { screenOf } from '../source/media';
import { sizesWidth } from '../source/srcset';
import type { Load } from '../capture/capture';
import { resolveUrl } from '../capture/url';
import type { SourceElement } from '../source/document';
import { candidateSet } from '../source/mentions';
import type { Page } from '../source/page';
import { pictureSize } from '../source/pictureSize';
import { hiddenAtFirst } from '../source/hidden';
import { readLength } from '../source/lengths';
import { declaredFor, lineage } from '../source/styling';
import {
  INLINE,
  type Style,
  columnsOf,
  fontOf,
  heightOf,
  hidden,
  inRoom,
  isInline,
  isPicture,
  lineHeightOf,
  marginsOf,
  maxWidthOf,
  minHeightOf,
  paddingOf,
  proportion,
  ratioOf,
  widthOf,
} from './boxes';
import type { Hero } from './hero';

interface Candidate {
  readonly kind: Hero['kind'];
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  /** Share that counts: what is drawn larger than its file counts less. */
  readonly share: number;
  readonly url?: string;
  readonly load?: Load;
  readonly element?: SourceElement;
}

const NOTHING = new Set(
  'head script style title meta link template noscript source track area map datalist option base param'.split(' '),
);
/** Width of a letter and height of a line, in font sizes, of ordinary text faces. */
const LETTER = 0.48;
const LINE = 1.25;
/** A picture with less than this much detail does not count as content, in bits for each drawn point. */
const LEAST_DETAIL = 0.05;

interface Box {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly fontPx: number;
  readonly lineHeight: number;
}

/**
 * The likely hero of a page that was recorded without observations: a rough layout of the source, block below block,
 * with the sizes that attributes, styles and files state, and the largest thing inside the first screen. Elements
 * built by scripts are not in the source: their pictures count at their own size where a script asked for one.
 */
export function guessHero(page: Page): Hero {
  const candidates = new Layout(page).candidates();
  const { screenWidth, screenHeight, touch } = page.capture.conditions;
  // A phone scales down a page that is wider than its screen until it fits.
  const shrunk = touch ? Math.max(1, ...candidates.map((c) => (c.x + c.width) / screenWidth)) : 1;
  const whole = screenWidth * screenHeight * shrunk ** 2;
  let best: Candidate | undefined;
  let most = 0;
  for (const c of candidates) {
    const right = Math.min(screenWidth * shrunk, c.x + c.width) - Math.max(0, c.x);
    const bottom = Math.min(screenHeight * shrunk, c.y + c.height) - Math.max(0, c.y);
    const area = right > 0 && bottom > 0 ? right * bottom * c.share : 0;
    // A picture as large as the screen is its ground, and no content.
    if (area <= most || (c.kind !== 'text' && right * bottom >= whole)) continue;
    if (c.element && hiddenAtFirst(page, c.element)?.animated) continue;
    best = c;
    most = area;
  }
  if (!best) return { kind: 'text', seen: false };
  const { element } = best;
  return {
    kind: best.kind,
    url: best.url,
    load: best.load,
    element,
    path: element?.path,
    tag: element?.tag,
    seen: false,
  };
}

class Layout {
  private readonly out: Candidate[] = [];
  private readonly children = new Map<number, SourceElement[]>();
  private readonly used = new Set<Load>();
  /** Elements that may still be laid out: the first screen has fewer. */
  private left = 6000;
  private readonly screen: { readonly width: number; readonly height: number; readonly density: number };

  constructor(private readonly page: Page) {
    const { screenWidth, screenHeight, density } = page.capture.conditions;
    this.screen = { width: screenWidth, height: screenHeight, density };
    for (const e of page.document?.elements ?? []) {
      const list = this.children.get(e.parent);
      if (list) list.push(e);
      else this.children.set(e.parent, [e]);
    }
  }

  candidates(): Candidate[] {
    const { document } = this.page;
    const top = { x: 0, y: 0, width: this.screen.width, fontPx: 16, lineHeight: LINE };
    if (document) {
      const body = document.elements.find((e) => e.tag === 'body');
      this.flow(
        body ? [body] : document.elements.filter((e) => e.parent < 0 || document.elements[e.parent]?.tag === 'html'),
        top,
        0,
      );
    }
    this.builtByScripts();
    return this.out;
  }

  /** Lays elements out below each other; returns the height they take. */
  private flow(elements: readonly SourceElement[], at: Box, depth: number): number {
    let y = at.y;
    let lineX = 0;
    let lineHeight = 0;
    const endLine = () => {
      y += lineHeight;
      lineX = 0;
      lineHeight = 0;
    };
    for (const e of elements) {
      if (y > this.screen.height * 1.5 || this.left-- < 0) break;
      if (NOTHING.has(e.tag) || e.inert) continue;
      const style = declaredFor(this.page, e);
      if (hidden(e, style)) continue;
      const position = style.get('position')?.value ?? '';
      const outside = /^(absolute|fixed)/.test(position);
      const inline = isInline(e, style);
      if (!inline) endLine();
      const fontPx = fontOf(e, style, at.fontPx);
      const own = { ...at, fontPx, lineHeight: lineHeightOf(style, fontPx, at.lineHeight) };
      if (inline) {
        const placed = this.out.length;
        const { width, height } = this.box(e, style, { ...own, x: at.x + lineX, y }, depth);
        if (lineX > 0 && lineX + width > at.width) {
          this.move(placed, -lineX, lineHeight);
          endLine();
        }
        lineX += width;
        lineHeight = Math.max(lineHeight, height);
        continue;
      }
      const margin = marginsOf(e, style, at.width, fontPx);
      const room = Math.max(0, at.width - margin.left - margin.right);
      const width = Math.min(widthOf(style, at.width, fontPx) ?? room, maxWidthOf(style, at.width, fontPx));
      // Centred by margin: auto.
      const x = at.x + (margin.auto ? Math.max(0, (at.width - width) / 2) : margin.left);
      const { height } = this.box(e, style, { ...own, x, y: outside ? at.y : y + margin.top, width }, depth);
      if (!outside) y += margin.top + height + margin.bottom;
    }
    endLine();
    return y - at.y;
  }

  /** Moves what was laid out last to the next line. */
  private move(from: number, dx: number, dy: number): void {
    for (let i = from; i < this.out.length; i++) {
      const c = this.out[i] as Candidate;
      this.out[i] = { ...c, x: c.x + dx, y: c.y + dy };
    }
  }

  /** Lays one element out at a place; returns the room it takes. */
  private box(e: SourceElement, style: Style, at: Box, depth: number): { width: number; height: number } {
    if (e.tag === 'svg') return this.drawing(e, style, at);
    if (isPicture(e)) return this.picture(e, style, at);
    const padding = paddingOf(style, at.width, at.fontPx);
    const inner = {
      ...at,
      x: at.x + padding.left,
      y: at.y + padding.top,
      width: Math.max(0, at.width - padding.left - padding.right),
    };
    const below = this.children.get(e.index) ?? [];
    const fixed = heightOf(style, this.screen.height, at.fontPx);
    let height = 0;
    let width = at.width;
    const blocks = below.filter((c) => !NOTHING.has(c.tag) && !INLINE.has(c.tag));
    if (depth > 200) height = 0;
    else if (blocks.length > 0 || (below.length > 0 && !this.words(e))) {
      const columns = columnsOf(style, below.length, inner.width);
      height = columns > 1 ? this.columns(below, inner, columns, depth) : this.flow(below, inner, depth + 1);
    }
    if (blocks.length === 0) {
      const length = this.words(e);
      if (length > 0) {
        const lineWidth = Math.max(at.fontPx, inner.width);
        const textWidth = length * at.fontPx * LETTER;
        const lines = Math.ceil(textWidth / lineWidth);
        const textHeight = lines * at.fontPx * at.lineHeight;
        // Lines are not full to the last letter.
        this.add('text', lines > 1 ? lineWidth * 0.97 : textWidth, textHeight, inner, { element: e });
        height = Math.max(height, textHeight);
        if (INLINE.has(e.tag)) width = Math.min(width, textWidth);
      }
    }
    const whole = Math.max(
      fixed ?? height + padding.top + padding.bottom,
      minHeightOf(style, this.screen.height, at.fontPx),
    );
    this.background(e, style, { ...at, width: at.width }, whole);
    return { width, height: whole };
  }

  private columns(elements: readonly SourceElement[], at: Box, columns: number, depth: number): number {
    const width = at.width / columns;
    let y = at.y;
    let row = 0;
    let n = 0;
    for (const e of elements) {
      if (NOTHING.has(e.tag) || hidden(e, declaredFor(this.page, e))) continue;
      row = Math.max(row, this.flow([e], { ...at, x: at.x + (n % columns) * width, y, width }, depth + 1));
      if (++n % columns === 0) {
        y += row;
        row = 0;
      }
    }
    return y + row - at.y;
  }

  private picture(e: SourceElement, style: Style, at: Box): { width: number; height: number } {
    const url = this.addressOf(e);
    const load = url === undefined ? undefined : this.page.loadOf(url);
    const bytes = load && this.page.bodies.bytes(load);
    const natural = bytes && pictureSize(bytes);
    const attribute = (name: string) => {
      const value = e.attributes.get(name);
      return value === undefined
        ? undefined
        : readLength(/^\s*[\d.]+\s*$/.test(value) ? `${value.trim()}px` : value, inRoom(at.width, at.fontPx));
    };
    const ratio =
      ratioOf(style) ??
      proportion(attribute('width'), attribute('height')) ??
      proportion(natural?.width, natural?.height) ??
      (e.tag === 'video' ? 2 : 1.5);
    const wide = widthOf(style, at.width, at.fontPx);
    const tall = heightOf(style, this.screen.height, at.fontPx);
    const auto = style.get('height')?.value === 'auto';
    let width =
      wide ??
      (tall !== undefined && !attribute('width') ? tall * ratio : undefined) ??
      attribute('width') ??
      (natural ? natural.width / this.densityOf(e, natural.width) : undefined) ??
      // A file whose size nobody states: a photograph takes about two bits a point.
      (load ? Math.sqrt((load.bodyBytes * 4 * 3) / 2) : 0);
    width = Math.min(width, maxWidthOf(style, at.width, at.fontPx));
    const height = tall ?? (auto || wide !== undefined ? width / ratio : (attribute('height') ?? width / ratio));
    if (url !== undefined && load?.kind === 'image' && load.status < 400) {
      this.used.add(load);
      // What is drawn larger than it is counts at its own size; what has next to no detail is no content.
      const drawn = width * height;
      const own = natural ? natural.width * natural.height : Infinity;
      if (load.bodyBytes * 8 >= drawn * LEAST_DETAIL)
        this.add('image', width, height, at, { element: e, url, load }, Math.min(1, own / Math.max(1, drawn)));
    }
    return { width, height };
  }

  /** An SVG with the pictures inside it, which its viewBox scales (SVG 2, 8.6). */
  private drawing(e: SourceElement, style: Style, at: Box): { width: number; height: number } {
    const number = (element: SourceElement, name: string) =>
      Number(/^[\d.]+/.exec(element.attributes.get(name) ?? '')?.[0] ?? NaN);
    const [, , boxWidth = NaN, boxHeight = NaN] = (e.attributes.get('viewbox') ?? e.attributes.get('viewBox') ?? '')
      .trim()
      .split(/[\s,]+/)
      .map(Number);
    const stated = number(e, 'width') || boxWidth || 300;
    const ratio = proportion(number(e, 'width'), number(e, 'height')) ?? proportion(boxWidth, boxHeight) ?? 2;
    const width = Math.min(widthOf(style, at.width, at.fontPx) ?? stated, maxWidthOf(style, at.width, at.fontPx));
    const scale = width / (boxWidth || width);
    for (const m of this.page.mentions) {
      if (m.element.tag !== 'image' || m.element.start < e.start || m.element.start >= e.end) continue;
      const load = this.page.loadOf(m.url);
      if (load?.kind !== 'image' || load.status >= 400) continue;
      this.used.add(load);
      const own = {
        width: number(m.element, 'width') * scale || width,
        height: number(m.element, 'height') * scale || width / ratio,
      };
      this.add('image', own.width, own.height, at, { element: m.element, url: m.url, load });
    }
    return { width, height: heightOf(style, this.screen.height, at.fontPx) ?? width / ratio };
  }

  /** Points of the file to a CSS pixel, as srcset states it. */
  private densityOf(e: SourceElement, fileWidth: number): number {
    const srcset = e.attributes.get('srcset') ?? '';
    if (/\s\d+w/.test(srcset))
      return (
        fileWidth / (sizesWidth(e.attributes.get('sizes'), screenOf(this.page.capture.conditions)) || this.screen.width)
      );
    const x = /\s([\d.]+)x\s*$/.exec(srcset)?.[1];
    return x && this.screen.density > 1 ? Number(x) : 1;
  }

  private addressOf(e: SourceElement): string | undefined {
    const { document } = this.page;
    if (!document) return undefined;
    // A loader's placeholder gives way to what its data attribute names.
    const held = this.page.mentionsIn(e).find((m) => m.use === 'hint' && this.page.loadOf(m.url));
    if (held) return held.url;
    if (e.tag === 'img') return candidateSet(document, e, screenOf(this.page.capture.conditions)).url;
    const name =
      e.tag === 'video' ? 'poster' : e.tag === 'image' ? (e.attributes.has('href') ? 'href' : 'xlink:href') : 'src';
    return this.page.mentionsIn(e).find((m) => m.attribute === name)?.url;
  }

  private background(e: SourceElement, style: Style, at: Box, height: number): void {
    const value = style.get('background-image') ?? style.get('background');
    const resolved = value && this.resolved(e, value.value);
    const raw = /url\(\s*(['"]?)(.*?)\1\s*\)/i.exec(resolved ?? '')?.[2];
    if (!raw || raw.startsWith('data:')) return;
    const url = resolveUrl(raw, value?.by?.sheet.load?.url ?? this.page.document?.baseUrl ?? this.page.capture.page);
    const load = url === undefined ? undefined : this.page.loadOf(url);
    if (!url || load?.kind !== 'image' || load.status >= 400) return;
    this.used.add(load);
    const bytes = this.page.bodies.bytes(load);
    const natural = bytes && pictureSize(bytes);
    const drawn = at.width * height;
    const own = natural ? natural.width * natural.height : Infinity;
    this.add('background', at.width, height, at, { element: e, url, load }, Math.min(1, own / Math.max(1, drawn)));
  }

  /** A value with its custom properties put in (CSS Variables 1, 3), from the element outwards. */
  private resolved(e: SourceElement, value: string): string {
    return value.replace(/var\(\s*(--[\w-]+)\s*(?:,([^()]*))?\)/g, (_, name: string, other: string | undefined) => {
      for (const up of lineage(this.page, e)) {
        const own = declaredFor(this.page, up).get(name);
        if (own) return own.value;
      }
      return other ?? '';
    });
  }

  private add(
    kind: Hero['kind'],
    width: number,
    height: number,
    at: Pick<Box, 'x' | 'y'>,
    what: Pick<Candidate, 'element' | 'url' | 'load'>,
    share = 1,
  ): void {
    if (width > 0 && height > 0) this.out.push({ kind, x: at.x, y: at.y, width, height, share, ...what });
  }

  /** Pictures that a script asked for and no source names. */
  private builtByScripts(): void {
    const { page } = this;
    for (const load of page.capture.loads) {
      if (load.kind !== 'image' || load.status !== 200 || this.used.has(load)) continue;
      const named = page.mentionsOf(load.url).some((m) => !m.element.inert && (m.use === 'load' || m.use === 'hint'));
      if (named || page.styles.some((s) => s.references.some((r) => r.url === load.url))) continue;
      const bytes = page.bodies.bytes(load);
      const natural = bytes && pictureSize(bytes);
      if (!natural || natural.width < 50) continue;
      const width = Math.min(natural.width, this.screen.width);
      this.add('image', width, (width / natural.width) * natural.height, { x: 0, y: 60 }, { url: load.url, load });
    }
  }

  /** Letters that an element shows itself: its own text and that of what stands in its lines. */
  private words(e: SourceElement): number {
    const text = this.page.document?.text.slice(e.startTagEnd, Math.min(e.end, e.startTagEnd + 20_000)) ?? '';
    return text
      .replace(/<(script|style|noscript|svg|template)\b[\s\S]*?<\/\1\s*>/gi, '')
      .replace(/<!--[\s\S]*?-->/g, '')
      .replace(/<[^>]*>/g, '')
      .replace(/&[a-z#0-9]+;/gi, 'x')
      .replace(/\s+/g, ' ')
      .trim().length;
  }
}
