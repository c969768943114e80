import { DEFAULT_VISITOR } from '../../core/load/visitors';
import { groupFixes } from '../../core/plan/staircase';
import { addPlan, listPlans } from '../store/plans';
import type { Store } from '../store/store';
import { listSweeps } from '../store/sweeps';
import { benchPages } from './benchPages';
import { outcomesBySweep } from './planOutcomes';

/** Plans of the demo: of the sweep of a day, due on another, with what is said to be done, and the sweeps that looked since. */
const PLANS = [
  {
    // One fix that won what was promised and has come undone since, one that won less and one that won more.
    name: 'After the sweep of 1 October',
    day: '2026-10-01',
    due: '2026-10-30',
    done: [
      'http-upgrade|http://maps.lanefinder.example/widget/',
      'script-defer|https://www.fernhollow.example/js/atlas.js',
      'script-defer|https://www.fernhollow.example/js/tour.js',
    ],
    seenBy: ['2026-11-05', '2026-11-26'],
  },
  {
    // One fix that was done, two in part, one that was not.
    name: 'After the sweep of 5 November',
    day: '2026-11-05',
    due: '2026-11-20',
    done: [
      'script-defer|https://www.fernhollow.example/js/carousel.js',
      'hero-priority|hero',
      'http-upgrade|http://media.fernhollow.example/p/leaf-1.jpg',
      'text-compress|www.fernhollow.example',
    ],
    seenBy: ['2026-11-26'],
  },
] as const;

/** Plans of the demo's older sweeps, and what its newer ones say of them. What is there already is left alone. */
export async function seedPlans(store: Store, siteId: number): Promise<void> {
  const sweeps = await listSweeps(store, siteId);
  const known = new Set((await listPlans(store, siteId)).map((p) => p.name));
  for (const { name, day, due, done, seenBy } of PLANS) {
    const older = sweeps.find((s) => s.day === day && s.captures > 0);
    if (!older || known.has(name)) continue;
    const { pages } = await benchPages(store, older.id, 'phone');
    const groups = groupFixes(pages.map((p) => ({ ...p, page: p.row.page })));
    const { id } = await addPlan(store, siteId, {
      name,
      visitor: DEFAULT_VISITOR.id,
      scope: '',
      fixes: done.flatMap((group) => {
        const title = groups.find((g) => g.id === group)?.title;
        return title === undefined ? [] : [{ group, title, owner: 'Ivy Marsh', due, state: 'done' as const }];
      }),
    });
    for (const seen of seenBy) {
      const sweep = sweeps.find((s) => s.day === seen);
      if (sweep) await outcomesBySweep(store, sweep.id, id);
    }
  }
}
