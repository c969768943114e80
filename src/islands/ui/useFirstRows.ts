import { useDeferredValue } from 'react';
import { useAwake } from '../state/api';

/** More than a tall window shows. */
const FIRST = 60;

/**
 * The rows of a long table that are drawn at first: as many as a window shows while an island wakes, all of them once
 * it has woken, without holding up what else there is to do.
 */
export function useFirstRows<T>(rows: readonly T[]): readonly T[] {
  const all = useDeferredValue(useAwake());
  return all ? rows : rows.slice(0, FIRST);
}
