/** Pages by number with what leads from one to the other. */
export interface LinkGraph {
  readonly pages: number;
  /** Pairs from, to; one array, as there may be millions. */
  readonly links: Int32Array;
  /** Where each page redirects to; -1 for none. */
  readonly redirects: Int32Array;
}

/**
 * Fewest links from the home pages to each page; -1 where none leads. A redirect costs no link: its target is as
 * deep as itself.
 */
export function linkDepths(graph: LinkGraph, homes: readonly number[]): Int32Array {
  const { pages, links, redirects } = graph;
  const start = new Int32Array(pages + 1);
  for (let i = 0; i < links.length; i += 2) start[(links[i] as number) + 1]!++;
  for (let p = 0; p < pages; p++) start[p + 1]! += start[p] as number;
  const targets = new Int32Array(links.length / 2);
  const fill = start.slice(0, pages);
  for (let i = 0; i < links.length; i += 2) {
    const from = links[i] as number;
    targets[fill[from] as number] = links[i + 1] as number;
    fill[from]!++;
  }
  const depth = new Int32Array(pages).fill(-1);
  let level: number[] = [];
  const reach = (page: number, d: number, into: number[]) => {
    for (let p = page; p >= 0 && depth[p] === -1; p = redirects[p] as number) {
      depth[p] = d;
      into.push(p);
    }
  };
  for (const home of homes) reach(home, 0, level);
  for (let d = 1; level.length > 0; d++) {
    const next: number[] = [];
    for (const page of level) {
      for (let i = start[page] as number; i < (start[page + 1] as number); i++) reach(targets[i] as number, d, next);
    }
    level = next;
  }
  return depth;
}

/** Where a chain of redirects ends. */
export interface ChainEnd {
  /** The last page; for a loop the first one that came again. */
  readonly page: number;
  /** Every page on the way, the first included, the end not. */
  readonly through: readonly number[];
  readonly loop: boolean;
}

/** Follows redirects from a page to their end. */
export function followRedirects(redirects: Int32Array, page: number): ChainEnd {
  const through: number[] = [];
  const seen = new Set<number>();
  let at = page;
  for (;;) {
    const next = redirects[at] ?? -1;
    if (next < 0) return { page: at, through, loop: false };
    if (seen.has(at)) return { page: at, through, loop: true };
    seen.add(at);
    through.push(at);
    at = next;
  }
}
