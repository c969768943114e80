import type { Plan, PlanFix } from './plan';

/** What of a plan people change. */
export type PlanParts = Pick<Plan, 'name' | 'visitor' | 'scope' | 'fixes'>;

/** Something that two people changed differently: the later one counts, the earlier one is told. */
export interface PlanConflict {
  /** Title of the fix; empty for the plan itself. */
  readonly fix: string;
  readonly field: string;
  readonly kept: string;
  readonly lost: string;
}

/** A plan with the changes of both, and what could not be kept of the earlier ones. */
export interface MergedPlan {
  readonly content: PlanParts;
  readonly conflicts: readonly PlanConflict[];
}

const FIELDS = ['owner', 'due', 'state'] as const;
const WORDS: Readonly<Record<string, string>> = {
  name: 'name',
  visitor: 'visitor',
  scope: 'pages',
  owner: 'owner',
  due: 'date',
  state: 'state',
};

/**
 * Puts two changes of a plan together, field by field: what only one of them changed is taken from that one. Of what both
 * changed differently `mine` counts, and the other is named. A fix that one takes out and the other changes stays.
 * @param base what both began from
 * @param mine the later change
 * @param theirs the plan as it stands by now
 */
export function mergePlans(base: PlanParts, mine: PlanParts, theirs: PlanParts): MergedPlan {
  const conflicts: PlanConflict[] = [];
  const pick = (fix: string, field: string, was: string | undefined, own: string, other: string): string => {
    if (own === was || own === other) return other;
    if (other !== was) conflicts.push({ fix, field: WORDS[field] ?? field, kept: own, lost: other });
    return own;
  };
  const [old, own, other] = [base, mine, theirs].map((p) => new Map(p.fixes.map((f) => [f.group, f])));
  const fixes = new Map<string, PlanFix>();
  for (const group of order(base, mine, theirs)) {
    const was = old?.get(group);
    const here = own?.get(group);
    const there = other?.get(group);
    if (here && there) {
      const fields = FIELDS.map((field) => [field, pick(here.title, field, was?.[field], here[field], there[field])]);
      fixes.set(group, { ...here, ...(Object.fromEntries(fields) as Pick<PlanFix, (typeof FIELDS)[number]>) });
      continue;
    }
    const left = here ?? there;
    if (!left) continue;
    // Taken out by one of them: it goes, unless it is new or the other has changed it.
    if (!was) fixes.set(group, left);
    else if (FIELDS.some((field) => left[field] !== was[field])) {
      fixes.set(group, left);
      conflicts.push({ fix: left.title, field: 'in the plan', kept: 'stays, since it was changed', lost: 'taken out' });
    }
  }
  return {
    content: {
      name: pick('', 'name', base.name, mine.name, theirs.name),
      visitor: pick('', 'visitor', base.visitor, mine.visitor, theirs.visitor),
      scope: pick('', 'scope', base.scope, mine.scope, theirs.scope),
      fixes: [...fixes.values()],
    },
    conflicts,
  };
}

/** All groups: in my order if I changed it, else in theirs; what only the other has comes last. */
function order(base: PlanParts, mine: PlanParts, theirs: PlanParts): string[] {
  const groups = (plan: PlanParts) => plan.fixes.map((f) => f.group);
  const moved = groups(mine).join('\n') !== groups(base).join('\n');
  const [first, second] = moved ? [mine, theirs] : [theirs, mine];
  return [...new Set([...groups(first), ...groups(second)])];
}

/** Whether a change does nothing but move fixes from one state to another: what a fixer may do. */
export function onlyStatesDiffer(before: PlanParts, after: PlanParts): boolean {
  const without = ({ name, visitor, scope, fixes }: PlanParts) =>
    JSON.stringify([name, visitor, scope, fixes.map(({ group, title, owner, due }) => [group, title, owner, due])]);
  return without(before) === without(after);
}
