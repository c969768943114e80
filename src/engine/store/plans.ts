import { InputError } from '../../core/capture/errors';
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
