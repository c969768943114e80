import type { Fix } from '../fixes/fix';
import type { Link } from '../load/graph';
import type { Milestones } from '../load/replay';
import { milestonesWith, type Average } from './averages';
import type { FixGroup, PlanPage } from './staircase';

/** Milestones of every page with some groups applied, and their weighted sums. */
interface Applied {
  readonly ids: readonly string[];
  readonly pages: readonly Milestones[];
  readonly sum: Average;
}

/**
 * The average page by the groups that are applied, for searches that ask for one set after another: a group changes only
 * the pages that it concerns, and sets that differ by their last group are told apart by these alone.
 */
export function averagesOf(
  pages: readonly PlanPage[],
  groups: readonly FixGroup[],
  link: Link,
): (ids: readonly string[]) => Average {
  const { touching, touched } = placesOf(pages, groups);
  const weight = (i: number) => pages[i]?.weight ?? 1;
  const total = pages.reduce((sum, _, i) => sum + weight(i), 0) || 1;
  const known = pages.map(() => new Map<string, Milestones>());
  const milestones = (i: number, ids: readonly string[]): Milestones => {
    const fixes = touching[i] as ReadonlyMap<string, readonly Fix[]>;
    const own = ids.filter((id) => fixes.has(id)).sort();
    const key = own.join('\n');
    const kept = known[i] as Map<string, Milestones>;
    let made = kept.get(key);
    if (!made) {
      const { graph } = pages[i] as PlanPage;
      made = milestonesWith(
        graph,
        own.flatMap((id) => fixes.get(id) ?? []),
        link,
      );
      kept.set(key, made);
    }
    return made;
  };
  /** Another set, from one that it has all groups of. */
  const onTop = (of: Applied, ids: readonly string[], more: readonly string[]): Applied => {
    const changed = [...of.pages];
    const sum = { ...of.sum };
    for (const i of new Set(more.flatMap((id) => [...(touched.get(id) ?? [])]))) {
      const was = changed[i] as Milestones;
      const is = milestones(i, ids);
      for (const figure of FIGURES) sum[figure] += weight(i) * (is[figure] - was[figure]);
      changed[i] = is;
    }
    return { ids, pages: changed, sum };
  };
  const bare = pages.map((_, i) => milestones(i, []));
  const none: Applied = { ids: [], pages: bare, sum: sumOf(bare, weight) };
  let base = none;
  const startsWith = (ids: readonly string[], of: readonly string[]) =>
    of.length <= ids.length && of.every((id, i) => ids[i] === id);
  return (ids) => {
    const before = ids.slice(0, -1);
    const from = startsWith(before, base.ids) ? base : none;
    base = onTop(from, before, before.slice(from.ids.length));
    const { sum } = onTop(base, ids, ids.slice(before.length));
    return mapFigures((figure) => sum[figure] / total);
  };
}

const FIGURES = ['lcpMs', 'fcpMs', 'loadMs', 'bytes'] as const;

const mapFigures = (of: (figure: keyof Average) => number): { -readonly [K in keyof Average]: number } => ({
  lcpMs: of('lcpMs'),
  fcpMs: of('fcpMs'),
  loadMs: of('loadMs'),
  bytes: of('bytes'),
});

const sumOf = (pages: readonly Milestones[], weight: (i: number) => number) =>
  mapFigures((figure) => pages.reduce((sum, m, i) => sum + weight(i) * m[figure], 0));

/** Of each page its fixes by group, and of each group the pages that it concerns. */
function placesOf(pages: readonly PlanPage[], groups: readonly FixGroup[]) {
  const at = new Map<string, number[]>();
  pages.forEach((p, i) => at.set(p.graph.page, [...(at.get(p.graph.page) ?? []), i]));
  const touching = pages.map(() => new Map<string, Fix[]>());
  const touched = new Map<string, Set<number>>();
  for (const { id, fixes } of groups) {
    const own = new Set<number>();
    touched.set(id, own);
    for (const fix of fixes)
      for (const i of at.get(fix.page) ?? []) {
        own.add(i);
        const list = touching[i]?.get(id);
        if (list) list.push(fix);
        else touching[i]?.set(id, [fix]);
      }
  }
  return { touching, touched };
}
