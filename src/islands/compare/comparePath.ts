import type { ComparisonPart } from '../../core/handover/comparisonTable';

/** Path of a comparison for a visitor; against the sweep that the address names. */
export function comparePath(sweepId: number, visitor: string, query: URLSearchParams): string {
  const other = query.get('with');
  return `/api/sweeps/${sweepId}/compare?visitor=${encodeURIComponent(visitor)}${other ? `&with=${encodeURIComponent(other)}` : ''}`;
}

/** Path of a part of it as CSV. */
export const partPath = (path: string, part: ComparisonPart): string => `${path}&format=csv&part=${part}`;
