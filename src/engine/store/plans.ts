import { InputError } from '../../core/capture/errors';
import { mergePlans, type MergedPlan } from '../../core/plan/mergePlans';
import type { Plan, PlanFix } from '../../core/plan/plan';
import type { Store } from './store';

const columns = [
  'id',
  'name',
  'visitor',
  'scope',
  'fixes',
  'created_at as createdAt',
  'updated_at as updatedAt',
] as const;

/** What a plan says, without when it was saved. */
export type PlanContent = Omit<Plan, 'id' | 'createdAt' | 'updatedAt'>;

/** The plans of a site, the latest first. */
export async function listPlans(store: Store, siteId: number): Promise<Plan[]> {
  const rows = await store
    .selectFrom('plans')
    .select(columns)
    .where('site_id', '=', siteId)
    .orderBy('updated_at', 'desc')
    .orderBy('id', 'desc')
    .execute();
  return rows.map(plan);
}

/** One plan of a site; undefined when there is none. */
export async function findPlan(store: Store, siteId: number, id: number): Promise<Plan | undefined> {
  const row = await store
    .selectFrom('plans')
    .select(columns)
    .where('site_id', '=', siteId)
    .where('id', '=', id)
    .executeTakeFirst();
  return row && plan(row);
}

/** Saves a new plan. @throws InputError when the name is taken. */
export async function addPlan(store: Store, siteId: number, content: PlanContent): Promise<Plan> {
  const now = new Date().toISOString();
  const row = await store
    .insertInto('plans')
    .values({ site_id: siteId, ...packed(content), created_at: now, updated_at: now })
    .onConflict((c) => c.doNothing())
    .returning(columns)
    .executeTakeFirst();
  if (!row) throw taken(content.name);
  return plan(row);
}

/** Saves a plan over; undefined when there is none. @throws InputError when another has the name. */
export async function changePlan(
  store: Store,
  siteId: number,
  id: number,
  content: PlanContent,
): Promise<Plan | undefined> {
  const other = await store
    .selectFrom('plans')
    .select('id')
    .where('site_id', '=', siteId)
    .where('name', '=', content.name)
    .where('id', '!=', id)
    .executeTakeFirst();
  if (other) throw taken(content.name);
  const row = await store
    .updateTable('plans')
    .set({ ...packed(content), updated_at: new Date().toISOString() })
    .where('site_id', '=', siteId)
    .where('id', '=', id)
    .returning(columns)
    .executeTakeFirst();
  return row && plan(row);
}

/** A plan that was saved over, with what could not be kept of the changes of others. */
export interface SavedPlan extends Plan {
  readonly conflicts: MergedPlan['conflicts'];
}

/**
 * Saves a plan over what somebody may have changed since: field by field, so that both changes stay.
 * @param base what the change began from; without it everything else is written over
 * @param mayChange whether a change from one content to another is allowed
 * @throws InputError when it is not, or when another plan has the name
 */
export function savePlanOver(
  store: Store,
  at: { readonly siteId: number; readonly id: number },
  content: PlanContent,
  base: PlanContent | undefined,
  mayChange: (before: PlanContent, after: PlanContent) => boolean,
): Promise<SavedPlan | undefined> {
  return store.transaction().execute(async (tx) => {
    const current = await findPlan(tx, at.siteId, at.id);
    if (!current) return undefined;
    const merged = base ? mergePlans(base, content, current) : { content, conflicts: [] };
    if (!mayChange(current, merged.content))
      throw new InputError(
        'Your role lets you tick fixes off, and change nothing else of a plan.',
        'plan',
        'Ask an auditor for the change.',
      );
    const saved = await changePlan(tx, at.siteId, at.id, merged.content);
    return saved && { ...saved, conflicts: merged.conflicts };
  });
}

/** When each plan was last saved. */
export function planVersions(store: Store): Promise<{ id: number; siteId: number; updatedAt: string }[]> {
  return store
    .selectFrom('plans')
    .select(['id', 'site_id as siteId', 'updated_at as updatedAt'])
    .orderBy('id')
    .execute();
}

/** Deletes a plan; false when there is none. */
export async function removePlan(store: Store, siteId: number, id: number): Promise<boolean> {
  const result = await store.deleteFrom('plans').where('site_id', '=', siteId).where('id', '=', id).executeTakeFirst();
  return result.numDeletedRows > 0n;
}

const taken = (name: string) =>
  new InputError(`There is a plan "${name}" already.`, 'name', 'Give it another name, or open that plan and save it.');

const packed = ({ name, visitor, scope, fixes }: PlanContent) => ({
  name,
  visitor,
  scope,
  fixes: JSON.stringify(fixes),
});

const plan = (row: Omit<Plan, 'fixes'> & { readonly fixes: string }): Plan => ({
  ...row,
  fixes: JSON.parse(row.fixes) as PlanFix[],
});
