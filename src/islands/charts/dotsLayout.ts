/** Dots of one row, moved up and down so that none covers another. */
export interface Dot<T> {
  readonly item: T;
  readonly x: number;
  readonly y: number;
}

/** Places values along x and stacks near ones around the middle line, three high; more move to the right. */
export function placeDots<T>(items: readonly T[], x: (item: T) => number, radius: number): Dot<T>[] {
  const out: Dot<T>[] = [];
  const gap = radius * 2 + 0.5;
  for (const item of [...items].sort((a, b) => x(a) - x(b))) {
    let placed: Dot<T> | undefined;
    for (let shift = 0; !placed; shift++) {
      const at = x(item) + shift * gap;
      const free = [0, -1, 1]
        .map((k) => k * gap)
        .find((y) => !out.some((d) => Math.hypot(d.x - at, d.y - y) < radius * 2));
      if (free !== undefined) placed = { item, x: at, y: free };
    }
    out.push(placed);
  }
  return out;
}
