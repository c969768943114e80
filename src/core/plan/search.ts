/**
 * Search for plans: the best order of changes, and the best set for a given effort. What a set of changes leads to is
 * simulated, never added up: some win more once others are in, some nothing.
 */

/** A change that may be taken. */
export interface Candidate {
  readonly id: string;
  /** Minutes. */
  readonly effort: number;
}

/** What a set of changes leads to, lower is better: hero paint in ms, say. Called with ids in any order. */
export type Objective = (ids: readonly string[]) => number;

export interface Order {
  /** The best order; what wins nothing comes last, the cheapest first. */
  readonly steps: readonly { readonly id: string; readonly won: number }[];
  readonly evaluations: number;
}

/** Below this a change wins nothing. */
const NOTHING = 0.5;
/** What was won at an earlier step may have grown by this much since: until then it is not looked at again. */
const GROWTH = 1.3;
/** Pairs are tried when no single change wins more than this share of where things stand, in all so many at most. */
const POOR = 0.005;
const MOST_PAIRS = 300;
const MOST_TRIALS = 2;

/**
 * The best order: each step takes what wins most on top of what is taken. Re-evaluates lazily: a change is looked at
 * again only when what it won last time could still make it the best. Where no single change wins anything, pairs
 * are tried, since two that each hold back the paint win only together.
 */
export function bestOrder(candidates: readonly Candidate[], objective: Objective, most = Infinity): Order {
  let evaluations = 0;
  const value = (ids: readonly string[]) => {
    evaluations++;
    return objective(ids);
  };
  const left = [...candidates].sort(byId).map((c) => ({ ...c, won: Infinity, fresh: false }));
  const taken: string[] = [];
  const steps: { id: string; won: number }[] = [];
  let at = value([]);
  let trials = 0;
  while (left.length > 0 && steps.length < most) {
    for (const c of left) c.fresh = false;
    // The last step may have made something win that won nothing before: then every change is looked at again.
    for (;;) {
      left.sort((a, b) => b.won - a.won || a.effort - b.effort || byId(a, b));
      const first = left[0] as (typeof left)[number];
      const stale = left.find((c) => !c.fresh && c.won * GROWTH > (first.fresh ? first.won : -Infinity) - NOTHING);
      if (!stale) break;
      stale.won = at - value([...taken, stale.id]);
      stale.fresh = true;
    }
    let [best] = left as [(typeof left)[number]];
    let chosen = [best.id];
    if (best.won < Math.max(NOTHING, at * POOR)) {
      for (const c of left) {
        if (c.fresh) continue;
        c.won = at - value([...taken, c.id]);
        c.fresh = true;
        if (c.won > best.won) best = c;
      }
      chosen = [best.id];
      const poor = best.won < Math.max(NOTHING, at * POOR);
      const pair = poor && trials++ < MOST_TRIALS ? bestPair(left, taken, at, value) : undefined;
      if (pair && pair.won > 2 * Math.max(NOTHING, best.won)) chosen = pair.ids;
      else if (best.won < NOTHING) break;
    }
    for (const id of chosen) {
      taken.push(id);
      const now = value(taken);
      steps.push({ id, won: at - now });
      at = now;
      left.splice(
        left.findIndex((c) => c.id === id),
        1,
      );
    }
  }
  const idle = left.sort((a, b) => a.effort - b.effort || byId(a, b));
  return { steps: [...steps, ...idle.map((c) => ({ id: c.id, won: 0 }))].slice(0, most), evaluations };
}

function bestPair(
  left: readonly Candidate[],
  taken: readonly string[],
  at: number,
  value: Objective,
): { ids: string[]; won: number } | undefined {
  let best: { ids: string[]; won: number } | undefined;
  let tried = 0;
  for (let i = 0; i < left.length; i++) {
    for (let k = i + 1; k < left.length && tried < MOST_PAIRS; k++, tried++) {
      const ids = [(left[i] as Candidate).id, (left[k] as Candidate).id];
      const won = at - value([...taken, ...ids]);
      if (!best || won > best.won) best = { ids, won };
    }
  }
  return best;
}

export interface Choice {
  readonly ids: readonly string[];
  readonly value: number;
  readonly effort: number;
  readonly evaluations: number;
}

/**
 * The best set for an effort in minutes: greedy by what is won, and by what is won for a minute, the better of both;
 * then exchanged one for one as long as that helps.
 */
export function bestWithin(candidates: readonly Candidate[], objective: Objective, minutes: number): Choice {
  let evaluations = 0;
  const value = (ids: readonly string[]) => {
    evaluations++;
    return objective(ids);
  };
  const affordable = candidates.filter((c) => c.effort <= minutes).sort(byId);
  const fill = (rate: (won: number, c: Candidate) => number): string[] => {
    const taken: Candidate[] = [];
    let at = value([]);
    for (;;) {
      const spent = effortOf(taken);
      let best: { c: Candidate; now: number; rate: number } | undefined;
      for (const c of affordable) {
        if (taken.includes(c) || spent + c.effort > minutes) continue;
        const now = value([...taken, c].map((t) => t.id));
        const r = rate(at - now, c);
        if (at - now >= NOTHING && (!best || r > best.rate)) best = { c, now, rate: r };
      }
      if (!best) return taken.map((c) => c.id);
      taken.push(best.c);
      at = best.now;
    }
  };
  let ids = fill((won) => won);
  const byRate = fill((won, c) => won / Math.max(1, c.effort));
  let at = value(ids);
  const other = value(byRate);
  if (other < at) [ids, at] = [byRate, other];
  const cost = (list: readonly string[]) => effortOf(candidates.filter((c) => list.includes(c.id)));
  for (let improved = true; improved;) {
    improved = false;
    for (const out of [...ids, undefined]) {
      for (const c of affordable) {
        if (ids.includes(c.id)) continue;
        const next = [...ids.filter((id) => id !== out), c.id];
        if (cost(next) > minutes) continue;
        const now = value(next);
        if (now < at - NOTHING) {
          [ids, at, improved] = [next, now, true];
          break;
        }
      }
      if (improved) break;
    }
  }
  return { ids, value: at, effort: cost(ids), evaluations };
}

/** Every set of at most 12 candidates: what greedy search is compared with. */
export function exhaustiveWithin(candidates: readonly Candidate[], objective: Objective, minutes: number): Choice {
  if (candidates.length > 12) throw new RangeError('Exhaustive search takes 12 candidates at most.');
  let best: Choice = { ids: [], value: objective([]), effort: 0, evaluations: 2 ** candidates.length };
  for (let mask = 1; mask < 2 ** candidates.length; mask++) {
    const chosen = candidates.filter((_, i) => (mask >> i) & 1);
    const effort = effortOf(chosen);
    if (effort > minutes) continue;
    const ids = chosen.map((c) => c.id);
    const value = objective(ids);
    if (value < best.value - 1e-9 || (value < best.value + 1e-9 && effort < best.effort))
      best = { ...best, ids, value, effort };
  }
  return best;
}

/**
 * The best order of at most 7 candidates: the one whose steps are lowest on average, as a staircase is looked at.
 */
export function exhaustiveOrder(
  candidates: readonly Candidate[],
  objective: Objective,
): { ids: string[]; mean: number } {
  if (candidates.length > 7) throw new RangeError('Exhaustive search takes 7 candidates at most.');
  const known = new Map<string, number>();
  const value = (ids: readonly string[]) => {
    const key = [...ids].sort().join();
    const kept = known.get(key) ?? objective(ids);
    known.set(key, kept);
    return kept;
  };
  let best = { ids: [] as string[], mean: Infinity };
  const walk = (ids: string[], sum: number) => {
    if (ids.length === candidates.length) {
      const mean = sum / Math.max(1, ids.length);
      if (mean < best.mean - 1e-9) best = { ids: [...ids], mean };
      return;
    }
    for (const c of candidates) if (!ids.includes(c.id)) walk([...ids, c.id], sum + value([...ids, c.id]));
  };
  walk([], 0);
  return best;
}

/** Where the steps of an order lead on average. */
export function meanOfOrder(ids: readonly string[], objective: Objective): number {
  return ids.reduce((sum, _, i) => sum + objective(ids.slice(0, i + 1)), 0) / Math.max(1, ids.length);
}

const effortOf = (list: readonly Candidate[]) => list.reduce((sum, c) => sum + c.effort, 0);
const byId = (a: { readonly id: string }, b: { readonly id: string }) => (a.id < b.id ? -1 : a.id > b.id ? 1 : 0);
