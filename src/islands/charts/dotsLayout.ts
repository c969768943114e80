/** Dots of one row, moved up and down so that none covers another. */
export interface Dot<T> {
  readonly item: T;
  readonly x: number;
  readonly y: number;
}

/** Lanes around the middle line, as multiples of a dot's room, in the order in which they are filled. */
const LANES = [0, -1, 1] as const;

/** Places values along x and stacks near ones around the middle line, three high; more move to the right. */
export function placeDots<T>(items: readonly T[], x: (item: T) => number, radius: number): Dot<T>[] {
  const gap = radius * 2 + 0.5;
  // From where on each lane is free.
  const free = LANES.map(() => -Infinity);
  return [...items]
    .sort((a, b) => x(a) - x(b))
    .map((item) => {
      const shifts = free.map((from) => Math.max(0, Math.ceil((from - x(item)) / gap)));
      const lane = shifts.indexOf(Math.min(...shifts));
      const at = x(item) + (shifts[lane] as number) * gap;
      free[lane] = at + radius * 2;
      return { item, x: at, y: (LANES[lane] as number) * gap };
    });
}

/** Values that are too many for a dot each: a bar for each stretch of the line, as high as its share of the fullest. */
export interface Bar<T> {
  readonly items: readonly T[];
  readonly x: number;
  readonly width: number;
  /** 0 to 1. */
  readonly share: number;
}

/** Puts values into stretches of the line; those without any are left out. */
export function placeBars<T>(items: readonly T[], x: (item: T) => number, width: number): Bar<T>[] {
  const stretches = new Map<number, T[]>();
  for (const item of items) {
    const at = Math.floor(x(item) / width);
    stretches.set(at, [...(stretches.get(at) ?? []), item]);
  }
  const most = Math.max(1, ...[...stretches.values()].map((s) => s.length));
  return [...stretches]
    .sort((a, b) => a[0] - b[0])
    .map(([at, own]) => ({ items: own, x: at * width, width, share: own.length / most }));
}
