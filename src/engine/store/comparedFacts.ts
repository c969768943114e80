import type { FactsOfPage } from '../../core/pictures/compare';
import type { Store } from './store';

/** Pages that two sweeps visited: how many, and those of which a fact differs. */
export async function comparedFacts(
  store: Store,
  then: number,
  now: number,
): Promise<{ both: number; changed: { page: string; then: FactsOfPage; now: FactsOfPage }[] }> {
  const pairs = store
    .selectFrom('pages as a')
    .innerJoin('pages as b', 'b.url', 'a.url')
    .where('a.sweep_id', '=', then)
    .where('b.sweep_id', '=', now)
    .where('a.status', 'is not', null)
    .where('b.status', 'is not', null);
  const { n } = await pairs.select((e) => e.fn.countAll<number>().as('n')).executeTakeFirstOrThrow();
  const rows = await pairs
    .leftJoin('templates as s', (j) => j.onRef('s.sweep_id', '=', 'a.sweep_id').onRef('s.template', '=', 'a.template'))
    .leftJoin('templates as t', (j) => j.onRef('t.sweep_id', '=', 'b.sweep_id').onRef('t.template', '=', 'b.template'))
    .select([
      'a.url as page',
      'a.status as status1',
      'b.status as status2',
      'a.title as title1',
      'b.title as title2',
      'a.canonical as canonical1',
      'b.canonical as canonical2',
      'a.robots as robots1',
      'b.robots as robots2',
      'a.redirect_to as redirect1',
      'b.redirect_to as redirect2',
      's.name as template1',
      't.name as template2',
    ])
    .where((e) =>
      e.or([
        e('a.status', 'is distinct from', e.ref('b.status')),
        e('a.title', 'is distinct from', e.ref('b.title')),
        e('a.canonical', 'is distinct from', e.ref('b.canonical')),
        e('a.robots', 'is distinct from', e.ref('b.robots')),
        e('a.redirect_to', 'is distinct from', e.ref('b.redirect_to')),
        e('s.name', 'is distinct from', e.ref('t.name')),
      ]),
    )
    .orderBy('a.url')
    .limit(50_000)
    .execute();
  return {
    both: n,
    changed: rows.map((r) => ({
      page: r.page,
      then: {
        status: r.status1 === null ? null : String(r.status1),
        title: r.title1,
        canonical: r.canonical1,
        robots: r.robots1,
        redirect: r.redirect1,
        template: r.template1,
      },
      now: {
        status: r.status2 === null ? null : String(r.status2),
        title: r.title2,
        canonical: r.canonical2,
        robots: r.robots2,
        redirect: r.redirect2,
        template: r.template2,
      },
    })),
  };
}
