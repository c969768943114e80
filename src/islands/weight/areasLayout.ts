import { hierarchy, treemap, treemapSquarify } from 'd3';
import type { FileSum } from '../../core/pictures/fileQuery';

/** A group as an area: its size is what is delivered, the filled part at the bottom what is needed. */
export interface WeightArea {
  readonly group: FileSum;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  /** Height of the needed part. */
  readonly needed: number;
}

/** Groups that get an area of their own; the rest share one. */
const MOST = 40;

/** Groups as areas on a plane; a pure function. */
export function weightAreas(groups: readonly FileSum[], width: number, height: number): WeightArea[] {
  const heavy = groups.filter((g) => g.delivered > 0);
  if (heavy.length === 0) return [];
  const rest = heavy.slice(MOST);
  const shown =
    rest.length > 0
      ? [
          ...heavy.slice(0, MOST),
          {
            key: '',
            name: `${rest.length} more`,
            files: rest.reduce((n, g) => n + g.files, 0),
            delivered: rest.reduce((n, g) => n + g.delivered, 0),
            needed: rest.reduce((n, g) => n + g.needed, 0),
          },
        ]
      : heavy;
  const root = hierarchy<{ children?: readonly FileSum[] } | FileSum>({ children: shown })
    .sum((d) => ('delivered' in d ? d.delivered : 0))
    .sort((a, b) => (b.value ?? 0) - (a.value ?? 0));
  const placed = treemap<{ children?: readonly FileSum[] } | FileSum>()
    .tile(treemapSquarify)
    .size([width, height])
    .paddingInner(2)(root);
  return placed.leaves().map((leaf) => {
    const group = leaf.data as FileSum;
    const tall = leaf.y1 - leaf.y0;
    return {
      group,
      x: leaf.x0,
      y: leaf.y0,
      width: leaf.x1 - leaf.x0,
      height: tall,
      needed: (tall * group.needed) / group.delivered,
    };
  });
}
