import { applyFixes } from '../../core/fixes/applyFixes';
import type { LoadGraph } from '../../core/load/graph';
import { simulate } from '../../core/load/simulate';
import { parseVisitor } from '../../core/load/visitors';
import { measuredReplay, type MeasuredLoad, type ProofStory, type ProvedSide } from '../../core/proof/measuredLoad';
import { getCapture } from '../store/captures';
import { proofLoads, type ProofRow } from '../store/proofs';
import type { Store } from '../store/store';

/** How the load of a proved page unfolds, forecast and measured; undefined when its capture or its requests are gone. */
export async function proofStory(store: Store, row: ProofRow): Promise<ProofStory | undefined> {
  const full = row.captureId === null ? undefined : await getCapture(store, row.captureId);
  const loads = await proofLoads(store, row.id);
  if (!full || !loads) return undefined;
  const visitor = parseVisitor(row.visitor);
  const { graph, fixes } = full.audit;
  const proved = new Set(row.proof.fixes.map((f) => f.id));
  const side = (loaded: LoadGraph, load: MeasuredLoad): ProvedSide => {
    const forecast = simulate(loaded, visitor);
    return { graph: loaded, forecast, measured: measuredReplay(loaded, forecast, load) };
  };
  return {
    before: side(graph, loads.before),
    after: side(
      applyFixes(
        graph,
        fixes.filter((f) => proved.has(f.id)),
      ),
      loads.after,
    ),
  };
}
