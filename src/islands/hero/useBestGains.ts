import type { BestGains } from '../../core/plan/bestGains';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { bestGainsPath } from '../state/sweepPaths';

/** The best fixes for each recorded page; undefined while they are worked out. */
export function useBestGains(): BestGains | undefined {
  const { sweepId, visitor, data } = useBench();
  const recorded = (data.value?.pages.length ?? 0) > 0 && data.value?.sweep.id === sweepId;
  const found = useResource<BestGains>(
    recorded && sweepId !== undefined ? bestGainsPath(sweepId, visitor.id) : undefined,
  );
  return found.stale ? undefined : found.value;
}
