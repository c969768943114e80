import type { GroupGains } from '../../core/plan/sweepForecast';
import { useResource } from './api';
import { useBench } from './bench';
import { gainsPath } from './sweepPaths';

/** What each group of fixes wins alone on each recorded page; undefined while it is worked out. */
export function useGains(): readonly GroupGains[] | undefined {
  const { sweepId, visitor, data } = useBench();
  const recorded = (data.value?.pages.length ?? 0) > 0 && data.value?.sweep.id === sweepId;
  const found = useResource<readonly GroupGains[]>(
    recorded && sweepId !== undefined ? gainsPath(sweepId, visitor.id) : undefined,
  );
  return found.stale ? undefined : found.value;
}
