import { useEffect } from 'react';
import { create } from 'zustand';
import type { Plan, PlanFix } from '../../core/plan/plan';

/** Who does a fix of the bench until when, before it is saved as a plan. */
export type FixDetails = Pick<PlanFix, 'owner' | 'due' | 'state'>;

export const NO_DETAILS: FixDetails = { owner: '', due: '', state: 'open' };

interface Draft {
  /** By site, then by group of fixes. */
  readonly bySite: Readonly<Record<number, Readonly<Record<string, FixDetails>>>>;
  set(siteId: number, group: string, change: Partial<FixDetails>): void;
  /** Takes over what a plan says. */
  take(siteId: number, plan: Pick<Plan, 'fixes'>): void;
}

const KEY = 'keen-lens:details';

function read(): Draft['bySite'] {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? '{}') as Draft['bySite'];
  } catch {
    return {};
  }
}

const useDraft = create<Draft>((set, get) => {
  const write = (bySite: Draft['bySite']) => {
    localStorage.setItem(KEY, JSON.stringify(bySite));
    set({ bySite });
  };
  return {
    bySite: {},
    set: (siteId, group, change) => {
      const { bySite } = get();
      const own = bySite[siteId] ?? {};
      write({ ...bySite, [siteId]: { ...own, [group]: { ...NO_DETAILS, ...own[group], ...change } } });
    },
    take: (siteId, plan) => {
      const details = Object.fromEntries(
        plan.fixes.map(({ group, owner, due, state }) => [group, { owner, due, state }]),
      );
      write({ ...get().bySite, [siteId]: details });
    },
  };
});

/**
 * Owners, dates and states of the fixes at hand; kept in this browser until they are saved with a plan. What is kept is
 * read once the screen has been drawn: the server does not know it.
 */
export function usePlanDraft(): Draft {
  useEffect(() => useDraft.setState({ bySite: read() }), []);
  return useDraft();
}
