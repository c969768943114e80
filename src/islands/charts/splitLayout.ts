import { scaleLinear, sum } from 'd3';
import type { HeroSplit } from '../../core/load/replay';

/** One of the four parts of the hero's time. */
export interface SplitPart {
  readonly key: keyof HeroSplit;
  readonly name: string;
  readonly means: string;
  readonly ms: number;
  readonly x: number;
  readonly width: number;
}

/** The parts in the order in which they pass. */
export const SPLIT_PARTS: readonly { readonly key: keyof HeroSplit; readonly name: string; readonly means: string }[] =
  [
    {
      key: 'serverMs',
      name: 'server',
      means: 'Until the first byte of the page: redirects, connection, server wait (TTFB).',
    },
    {
      key: 'untilFoundMs',
      name: 'until discovered',
      means: 'Until the browser discovers the hero’s file: long when a script or a stylesheet names it (load delay).',
    },
    {
      key: 'transferMs',
      name: 'transfer',
      means: 'Until the file has arrived: queueing behind other loads, and its size (load duration).',
    },
    {
      key: 'untilPaintedMs',
      name: 'until painted',
      means: 'Until it is painted: scripts and styles that block rendering (render delay).',
    },
  ];

/** Places the four parts one after the other on a scale that several splits may share; a pure function. */
export function splitLayout(split: HeroSplit, mostMs: number, width: number): SplitPart[] {
  const x = scaleLinear([0, Math.max(1, mostMs)], [0, width]);
  return SPLIT_PARTS.map((part, i) => {
    const before = sum(SPLIT_PARTS.slice(0, i), (p) => split[p.key]);
    return { ...part, ms: split[part.key], x: x(before), width: x(before + split[part.key]) - x(before) };
  });
}
