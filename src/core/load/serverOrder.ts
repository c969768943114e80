import type { Load, ServerOrder } from '../capture/capture';
import type { LoadGraph } from './graph';
import { simulate } from './simulate';

/** Taken for granted of an HTTP/2 server whose recording does not tell: most of those that serve many pages do so. */
const BY_URGENCY_IF_UNKNOWN = true;

/**
 * Which HTTP/2 servers of a recording send first what is urgent: as the recorder found when it asked them. Where it
 * did not, the recording is simulated under both assumptions, and the one under which responses end more nearly in
 * the recorded order is taken.
 */
export function serversByUrgency(graph: LoadGraph, loads: readonly Load[], asked: readonly ServerOrder[]): string[] {
  const origins = [...new Set(graph.fetches.filter((f) => f.protocol === 'h2' && !f.refused).map((f) => f.origin))];
  const out: string[] = [];
  for (const origin of origins) {
    const said = asked.find((s) => s.origin === origin);
    if (said) {
      if (said.byUrgency) out.push(origin);
      continue;
    }
    const own = graph.fetches.filter((f) => f.origin === origin && f.load >= 0 && f.discovery.by !== 'never');
    const levels = new Set(own.map((f) => f.priority));
    if (own.length < 3 || levels.size < 2) {
      if (BY_URGENCY_IF_UNKNOWN) out.push(origin);
      continue;
    }
    const ids = own.map((f) => f.id);
    const even = disorder({ ...graph, byUrgency: out }, ids, loads);
    const urgent = disorder({ ...graph, byUrgency: [...out, origin] }, ids, loads);
    if (urgent < even || (urgent === even && BY_URGENCY_IF_UNKNOWN)) out.push(origin);
  }
  return out;
}

/** How much the order in which responses end differs from the recorded one: pairs of different priority the other way round, weighted by how far apart they were recorded. */
function disorder(graph: LoadGraph, ids: readonly number[], loads: readonly Load[]): number {
  const { fetches } = simulate(graph, graph.conditions);
  let wrong = 0;
  for (let i = 0; i < ids.length; i++) {
    for (let j = i + 1; j < ids.length; j++) {
      const a = ids[i] as number;
      const b = ids[j] as number;
      const la = loads[a];
      const lb = loads[b];
      if (!la || !lb || graph.fetches[a]?.priority === graph.fetches[b]?.priority) continue;
      // Only responses that overlapped in time can tell.
      if (Math.max(la.startMs, lb.startMs) >= Math.min(la.endMs, lb.endMs)) continue;
      const recorded = la.endMs - lb.endMs;
      const made = (fetches[a]?.endMs ?? 0) - (fetches[b]?.endMs ?? 0);
      if (recorded * made < 0) wrong += Math.abs(recorded);
    }
  }
  return wrong;
}
