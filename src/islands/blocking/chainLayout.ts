import { scaleLinear } from 'd3';
import { fileName } from '../../core/capture/url';
import type { ChainLink, FirstPaintPicture } from '../../core/pictures/blocking';

/** Height of a row; of one with its name above the bar. */
export const ROW = 22;
export const NAMED_ROW = 32;

/** One link of a chain as drawn. */
export interface DrawnLink {
  readonly link: ChainLink;
  readonly name: string;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  /** Width of the part that the first screen uses; undefined where that was not examined. */
  readonly used?: number;
}

/** A chain with its time axis. */
export interface DrawnChain {
  readonly links: readonly DrawnLink[];
  /** Where one link hands over to the next: from its end to the other's start. */
  readonly turns: readonly { readonly x1: number; readonly y1: number; readonly x2: number; readonly y2: number }[];
  readonly ticks: readonly { readonly ms: number; readonly x: number }[];
  readonly height: number;
}

/** Places a chain on a scale that several may share, a row for each link; a pure function. */
export function chainLayout({ chain }: FirstPaintPicture, mostMs: number, width: number, row = ROW): DrawnChain {
  const x = scaleLinear([0, Math.max(1, mostMs)], [0, width]);
  const links = chain.map((link, i): DrawnLink => {
    const wide = Math.max(2, x(link.toMs) - x(link.fromMs));
    return {
      link,
      name: linkName(link),
      x: x(link.fromMs),
      y: i * row,
      width: wide,
      used: link.usedShare === undefined ? undefined : wide * link.usedShare,
    };
  });
  return {
    links,
    turns: links.slice(1).flatMap((to, i) => {
      const from = links[i];
      return from ? [{ x1: from.x + from.width, y1: from.y + row - ROW / 2, x2: to.x, y2: to.y + row - ROW / 2 }] : [];
    }),
    ticks: x.ticks(Math.max(2, Math.floor(width / 90))).map((ms) => ({ ms, x: x(ms) })),
    height: links.length * row,
  };
}

/** What a link is, in few words. */
export function linkName({ step, url, kind }: ChainLink): string {
  if (step === 'paint') return 'first paint';
  const file = url === undefined ? 'a script in the page' : fileName(url);
  if (step === 'script') return `run ${file}`;
  return kind === 'document' ? `page ${file}` : file;
}
