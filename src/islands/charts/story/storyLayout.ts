import { fileName } from '../../../core/capture/url';
import { fileOfScript, finalFetch, type LoadGraph } from '../../../core/load/graph';
import type { Replay } from '../../../core/load/replay';

/** What part something plays in the load. */
export type Role = 'hero' | 'block' | 'rest';

/** One row of the story. */
export interface StoryRow {
  readonly key: string;
  readonly name: string;
  readonly role: Role;
  readonly kind: 'fetch' | 'script';
  /** Found, asked for, first byte, end; a script has start and end only. */
  readonly foundMs: number;
  readonly sentMs: number;
  readonly firstMs: number;
  readonly endMs: number;
  readonly why: string;
  readonly bytes: number;
  /** The load of the finding that is marked. */
  readonly focus?: boolean;
}

/** One side of the story: rows from the axis outwards, and the density of everything else. */
export interface StorySide {
  readonly rows: readonly StoryRow[];
  readonly density: readonly { readonly ms: number; readonly n: number }[];
  readonly others: number;
  readonly otherBytes: number;
  /** Of the others, requested before the hero. */
  readonly aheadOfHero: number;
}

const MAX_ROWS = 8;
/** Rows of an opened story at most: what is left stays a density. */
const MAX_OPENED = 120;

export interface StoryOptions {
  /** Index of a recorded load that is to have a row of its own. */
  readonly focus?: number;
  /** Every load has a row of its own. */
  readonly opened?: boolean;
}

/** Sorts one simulation into lanes; a pure function. */
export function storySide(
  graph: LoadGraph,
  replay: Replay,
  untilMs: number,
  { focus, opened = false }: StoryOptions = {},
): StorySide {
  const rows: StoryRow[] = [];
  const used = new Set<number>();
  const fetchRow = (id: number, role: Role, why: string) => {
    const f = graph.fetches[id];
    const t = replay.fetches[id];
    if (!f || !t || used.has(id) || t.foundMs < 0 || f.refused) return;
    used.add(id);
    rows.push({
      key: `f${id}`,
      name: fileName(f.url),
      role,
      kind: 'fetch',
      foundMs: t.foundMs,
      sentMs: t.sentMs,
      firstMs: t.firstByteMs,
      endMs: t.endMs,
      why,
      bytes: f.headerBytes + f.bodyBytes,
    });
  };
  for (const step of replay.path) {
    if (step.kind === 'fetch') fetchRow(step.id, 'hero', step.why);
    else if (step.kind === 'script' && step.toMs - step.fromMs > 20) {
      const fetch = fileOfScript(graph, step.id);
      const name = fetch >= 0 ? `run ${fileName(graph.fetches[fetch]?.url ?? '')}` : 'run inline script';
      rows.push({
        key: `s${step.id}`,
        name,
        role: 'hero',
        kind: 'script',
        foundMs: step.fromMs,
        sentMs: step.fromMs,
        firstMs: step.fromMs,
        endMs: step.toMs,
        why: step.why,
        bytes: 0,
      });
    }
  }
  if (graph.hero.fetch >= 0) fetchRow(finalFetch(graph, graph.hero.fetch), 'hero', 'the hero itself');
  const blocking = [
    ...graph.styles.filter((s) => s.blocking).map((s) => s.fetch),
    ...graph.scripts.filter((s) => s.mode === 'sync' && s.inHead && s.fetch >= 0).map((s) => s.fetch),
  ].sort((a, b) => (replay.fetches[b]?.endMs ?? 0) - (replay.fetches[a]?.endMs ?? 0));
  for (const id of blocking) if (rows.length < MAX_ROWS) fetchRow(id, 'block', 'blocks the first paint');
  const focused = focus === undefined ? undefined : graph.fetches.find((f) => f.load === focus);
  if (focused) {
    fetchRow(focused.id, 'rest', 'the load of the selected finding');
    const at = rows.findIndex((r) => r.key === `f${focused.id}`);
    if (at >= 0) rows[at] = { ...(rows[at] as StoryRow), focus: true };
  }
  if (opened) {
    const found = (id: number) => replay.fetches[id]?.foundMs ?? Infinity;
    for (const f of [...graph.fetches].sort((a, b) => found(a.id) - found(b.id)))
      if (rows.length < MAX_OPENED)
        fetchRow(f.id, 'rest', 'neither the hero’s critical path nor before anything shows');
  }
  rows.sort((a, b) => a.foundMs - b.foundMs || a.endMs - b.endMs);

  const heroAt = replay.fetches[graph.hero.fetch]?.foundMs ?? Infinity;
  const rest = graph.fetches.filter((f) => !used.has(f.id) && !f.refused && (replay.fetches[f.id]?.foundMs ?? -1) >= 0);
  const step = Math.max(20, untilMs / 120);
  const density: { ms: number; n: number }[] = [];
  for (let ms = 0; ms <= untilMs; ms += step) {
    const n = rest.filter((f) => {
      const t = replay.fetches[f.id];
      return t !== undefined && t.sentMs >= 0 && t.sentMs <= ms && t.endMs >= ms;
    }).length;
    density.push({ ms, n });
  }
  return {
    rows,
    density,
    others: rest.length,
    otherBytes: rest.reduce((sum, f) => sum + f.headerBytes + f.bodyBytes, 0),
    aheadOfHero: rest.filter((f) => (replay.fetches[f.id]?.foundMs ?? Infinity) < heroAt).length,
  };
}
