import { bestOrder, type Candidate, type Objective } from './search';

/** What it takes to get to a target, or how near one can come. */
export interface Way {
  /** In the order in which each wins most. */
  readonly ids: readonly string[];
  readonly value: number;
  readonly reached: boolean;
  /** Minutes of work. */
  readonly effort: number;
}

/** Below this a change wins nothing. */
const NOTHING = 0.5;

/**
 * The smallest set of changes with which an objective comes to a target or below: the fewest, and of these the least
 * effort. Where no set gets there, the nearest one, without what it does not need. Greedy, then thinned out, then one
 * exchanged for a cheaper one; its tests hold it against trying everything on small benches.
 * @param objective what a set leads to, lower is better: hero paint in ms
 */
export function wayTo(candidates: readonly Candidate[], objective: Objective, target: number): Way {
  const known = new Map<string, number>();
  const value = (ids: readonly string[]) => {
    const key = [...ids].sort().join('\n');
    const kept = known.get(key) ?? objective(ids);
    known.set(key, kept);
    return kept;
  };
  const effort = (ids: readonly string[]) =>
    ids.reduce((sum, id) => sum + (candidates.find((c) => c.id === id)?.effort ?? 0), 0);
  const all = [...candidates].sort((a, b) => a.effort - b.effort || (a.id < b.id ? -1 : 1)).map((c) => c.id);
  let ids = climb(all, value, target);
  const reached = value(ids) <= target;
  // Without a way to the target, what counts is how near one comes: a set that leads no less far is as good.
  const bar = reached ? target : value(ids) + NOTHING;
  ids = thin(ids, value, bar, effort);
  ids = exchange(ids, all, value, bar, effort);
  const order = bestOrder(
    candidates.filter((c) => ids.includes(c.id)),
    value,
  );
  ids = order.steps.map((s) => s.id);
  return { ids, value: value(ids), reached, effort: effort(ids) };
}

/** Takes what wins most until the target is met or nothing wins any more; pairs where no single change wins. */
function climb(all: readonly string[], value: Objective, target: number): string[] {
  const taken: string[] = [];
  while (value(taken) > target) {
    const at = value(taken);
    const left = all.filter((id) => !taken.includes(id));
    let best: { ids: string[]; value: number } | undefined;
    const look = (ids: string[]) => {
      const v = value([...taken, ...ids]);
      if (v < at - NOTHING && (!best || v < best.value)) best = { ids, value: v };
    };
    for (const id of left) look([id]);
    if (!best) for (const [i, a] of left.entries()) for (const b of left.slice(i + 1)) look([a, b]);
    if (!best) return taken;
    taken.push(...best.ids);
  }
  return taken;
}

/** Leaves out what is not needed to stay at the bar, the dearest first. */
function thin(ids: readonly string[], value: Objective, bar: number, effort: (ids: readonly string[]) => number) {
  let kept = [...ids];
  for (const id of [...ids].sort((a, b) => effort([b]) - effort([a]))) {
    const without = kept.filter((k) => k !== id);
    if (value(without) <= bar) kept = without;
  }
  return kept;
}

/** Two for one, or one for a cheaper one, as long as the bar is kept. */
function exchange(
  ids: readonly string[],
  all: readonly string[],
  value: Objective,
  bar: number,
  effort: (ids: readonly string[]) => number,
): string[] {
  let kept = [...ids];
  for (let better = true; better;) {
    better = false;
    for (const out of outs(kept)) {
      const rest = kept.filter((k) => !out.includes(k));
      const one = all.find(
        (id) => !kept.includes(id) && (out.length > 1 || effort([id]) < effort(out)) && value([...rest, id]) <= bar,
      );
      if (one === undefined) continue;
      kept = [...rest, one];
      better = true;
      break;
    }
  }
  return kept;
}

function outs(ids: readonly string[]): string[][] {
  const pairs = ids.flatMap((a, i) => ids.slice(i + 1).map((b) => [a, b]));
  return [...pairs, ...ids.map((id) => [id])];
}

/** Every set of at most 12 candidates: what `wayTo` is compared with. */
export function exhaustiveWay(candidates: readonly Candidate[], objective: Objective, target: number): Way {
  if (candidates.length > 12) throw new RangeError('Exhaustive search takes 12 candidates at most.');
  let best: Way | undefined;
  for (let mask = 0; mask < 2 ** candidates.length; mask++) {
    const chosen = candidates.filter((_, i) => (mask >> i) & 1);
    const ids = chosen.map((c) => c.id);
    const value = objective(ids);
    const way = { ids, value, reached: value <= target, effort: chosen.reduce((sum, c) => sum + c.effort, 0) };
    if (!best || nearer(way, best)) best = way;
  }
  return best as Way;
}

function nearer(a: Way, b: Way): boolean {
  if (a.reached !== b.reached) return a.reached;
  if (!a.reached && Math.abs(a.value - b.value) > NOTHING) return a.value < b.value;
  return a.ids.length !== b.ids.length ? a.ids.length < b.ids.length : a.effort < b.effort;
}
