/** Dots of one row, moved up and down so that none covers another. */
export interface Dot<T> {
  readonly item: T;
  readonly x: number;
  readonly y: number;
}

/** Places values along x and stacks near ones around the middle line. */
export function placeDots<T>(items: readonly T[], x: (item: T) => number, radius: number): Dot<T>[] {
  const out: Dot<T>[] = [];
  for (const item of [...items].sort((a, b) => x(a) - x(b))) {
    const at = x(item);
    const near = out.filter((d) => Math.abs(d.x - at) < radius * 2);
    const offsets = [0, -1, 1, -2, 2].map((k) => k * (radius + 1.5));
    const free = offsets.find((o) => !near.some((d) => Math.hypot(d.x - at, d.y - o) < radius * 2)) ?? 0;
    out.push({ item, x: at, y: free });
  }
  return out;
}
