import { useEffect, useRef, useState } from 'react';
import { mergePlans, type PlanConflict, type PlanParts } from '../../core/plan/mergePlans';
import type { Plan } from '../../core/plan/plan';
import { usePlanVersions } from '../state/jobs';

/** What could not be kept of changes of others, as sentences. */
export const conflictWords = (conflicts: readonly PlanConflict[]): string[] =>
  conflicts.map(
    (c) => `${c.fix ? `${c.fix}: ` : ''}${c.field} ${c.lost || 'nothing'} gave way to ${c.kept || 'nothing'}.`,
  );

const partsOf = ({ name, visitor, scope, fixes }: Plan): PlanParts => ({ name, visitor, scope, fixes });

/**
 * A plan on which several people work: what others save comes in while it is open, beside what is at hand here.
 * @param open the plan that is open, as last read
 * @param content what is at hand here, as a plan
 * @param take called with both changes put together, when somebody else has saved
 */
export function usePlanInCommon(
  open: Plan | undefined,
  content: (called: string, from?: PlanParts) => PlanParts,
  reload: () => void,
  take: (merged: PlanParts) => void,
): { readonly base?: PlanParts; begin(plan: Plan): void; readonly news: string } {
  const versions = usePlanVersions();
  const [begun, setBegun] = useState<{ id: number; at: string; base: PlanParts }>();
  const [news, setNews] = useState('');
  const begin = (plan: Plan) => {
    setBegun({ id: plan.id, at: plan.updatedAt, base: partsOf(plan) });
    setNews('');
  };
  // Opened by its address: it began as it was read first.
  const current =
    begun && begun.id === open?.id ? begun : open && { id: open.id, at: open.updatedAt, base: partsOf(open) };
  if (current && begun?.id !== current.id) setBegun(current);
  const saved = current && versions?.[current.id];
  const isOld = current !== undefined && saved !== undefined && saved > current.at;
  useEffect(() => {
    if (isOld) reload();
  }, [isOld, saved, reload]);
  const merge = useRef<() => void>(() => undefined);
  merge.current = () => {
    if (!current || !open || open.updatedAt <= current.at) return;
    const theirs = partsOf(open);
    const { content: merged, conflicts } = mergePlans(current.base, content(open.name, current.base), theirs);
    setBegun({ id: open.id, at: open.updatedAt, base: theirs });
    take(merged);
    setNews(['Somebody else has saved this plan: their changes are here.', ...conflictWords(conflicts)].join(' '));
  };
  const read = open?.updatedAt;
  useEffect(() => merge.current(), [read]);
  return { base: current?.base, begin, news };
}
