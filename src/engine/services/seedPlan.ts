import { DEFAULT_VISITOR } from '../../core/load/visitors';
import { groupFixes } from '../../core/plan/staircase';
import { addPlan, listPlans } from '../store/plans';
import type { Store } from '../store/store';
import { listSweeps } from '../store/sweeps';
import { benchPages } from './benchPages';
import { outcomesBySweep } from './planOutcomes';

const NAME = 'After the sweep of 5 November';

/** What was said to be done between the demo's two sweeps: one fix that was, two in part, one that was not. */
const DONE = [
  'script-defer|https://www.fernhollow.example/js/carousel.js',
  'hero-priority|hero',
  'http-upgrade|http://media.fernhollow.example/p/leaf-1.jpg',
  'text-compress|www.fernhollow.example',
] as const;

/** A plan of the demo's older sweep, and what its newer one says of it. What is there already is left alone. */
export async function seedPlan(store: Store, siteId: number, sweepId: number): Promise<void> {
  if ((await listPlans(store, siteId)).some((p) => p.name === NAME)) return;
  const older = (await listSweeps(store, siteId)).find((s) => s.id !== sweepId && s.captures > 0);
  if (!older) return;
  const { pages } = await benchPages(store, older.id, 'phone');
  const groups = groupFixes(pages.map((p) => ({ ...p, page: p.row.page })));
  await addPlan(store, siteId, {
    name: NAME,
    visitor: DEFAULT_VISITOR.id,
    scope: '',
    fixes: DONE.flatMap((id) => {
      const group = groups.find((g) => g.id === id);
      return group
        ? [{ group: id, title: group.title, owner: 'Ivy Marsh', due: '2026-11-20', state: 'done' as const }]
        : [];
    }),
  });
  await outcomesBySweep(store, sweepId);
}
