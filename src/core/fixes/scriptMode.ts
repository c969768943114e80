import type { LoadGraph, ScriptMode } from '../load/graph';
import { fetchesOf } from './graphEdits';

/** Scripts of a target that run in one of these modes run in another; nothing waits for them: they are asked for at low priority. */
export function withScriptMode(
  graph: LoadGraph,
  target: string,
  from: readonly ScriptMode[],
  to: 'async' | 'defer',
): LoadGraph {
  const ids = new Set(target === '*' ? graph.scripts.map((s) => s.fetch) : fetchesOf(graph, target).map((f) => f.id));
  const changed = graph.scripts.filter(
    (s) => (from.includes(s.mode) || s.holdsPaint) && s.fetch >= 0 && ids.has(s.fetch),
  );
  if (changed.length === 0) return graph;
  const fetchIds = new Set(changed.map((s) => s.fetch));
  return {
    ...graph,
    scripts: graph.scripts.map((s) =>
      changed.includes(s) ? { ...s, mode: from.includes(s.mode) ? to : s.mode, holdsPaint: undefined } : s,
    ),
    fetches: graph.fetches.map((f) => (fetchIds.has(f.id) ? { ...f, priority: Math.min(f.priority, 1) as 0 | 1 } : f)),
  };
}
