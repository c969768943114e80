import type { CheckWords } from '../../core/checks/words';
import { useResource } from './api';

/** Where the checks tell of themselves. */
export const CHECKS_PATH = '/api/checks';

export interface ChecksAnswer {
  readonly checks: readonly CheckWords[];
}

const NONE: readonly CheckWords[] = [];

/** Every check with its words; none while they are read. */
export function useChecks(): readonly CheckWords[] {
  return useResource<ChecksAnswer>(CHECKS_PATH).value?.checks ?? NONE;
}
