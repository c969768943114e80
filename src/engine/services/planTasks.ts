import { CHECKS } from '../../core/checks';
import { fixChanges, fixKind } from '../../core/fixes';
import type { Fix } from '../../core/fixes/fix';
import type { TaskHead, Task } from '../../core/handover/tasks';
import { deviceOf, type Visitor } from '../../core/load/visitors';
import { benchFigures, benchRange, groupRanges } from '../../core/plan/bench';
import { groupKey } from '../../core/plan/groupKey';
import type { Range } from '../../core/load/range';
import { ownTrust, scaledRange } from '../../core/proof/learn';
import { proofOf, summaryOf } from '../../core/proof/summary';
import { listProofs } from '../store/proofs';
import { pagesIn, parseScope, type Plan } from '../../core/plan/plan';
import { groupFixes, type FixGroup } from '../../core/plan/staircase';
import type { Store } from '../store/store';
import { benchPages, type BenchRow } from './benchPages';
import { offerContext, openCapture } from './captureView';

/** What tasks are made of: a bench as it stands in an address, and a saved plan for owners, dates and states. */
export interface TasksAsked {
  readonly visitor: Visitor;
  /** Keys of groups (`groupKey`) in their order. */
  readonly bench: readonly string[];
  readonly scope: string;
  readonly plan?: Plan;
}

/** The tasks of a bench, in its order, with the lines of source that each changes. */
export async function planTasks(
  store: Store,
  sweep: { readonly id: number; readonly siteId: number; readonly day: string },
  site: string,
  asked: TasksAsked,
): Promise<{ head: TaskHead; tasks: Task[] }> {
  const { visitor } = asked;
  const all = (await benchPages(store, sweep.id, deviceOf(visitor))).pages;
  const pages = pagesIn(
    all.map((p) => ({ ...p, page: p.row.page, template: p.template?.id })),
    parseScope(asked.scope),
  );
  const byKey = new Map(groupFixes(pages).map((g) => [groupKey(g.id), g]));
  const groups = asked.bench.flatMap((key) => byKey.get(key) ?? []);
  const figures = benchFigures(
    pages,
    groups.map((g) => g.id),
    visitor,
  );
  const ranges = new Map(groupRanges(pages, figures, visitor).map((r) => [r.id, r]));
  const titles = new Map(groups.map((g) => [g.id, g.title]));
  const proofs = await listProofs(store, sweep.siteId);
  const { factor } = ownTrust(proofs.map((p) => p.proof));
  const summaries = proofs.map(summaryOf);
  const range = benchRange(
    pages,
    groups.map((g) => g.id),
    visitor,
    figures,
  );
  const tasks: Task[] = [];
  for (const group of groups) {
    const effect = figures.groups.find((g) => g.id === group.id);
    const own = asked.plan?.fixes.find((f) => f.group === group.id);
    tasks.push({
      title: group.title,
      pages: [...new Set(group.fixes.map((f) => f.page))],
      effort: group.effort,
      owner: own?.owner ?? '',
      due: own?.due ?? '',
      state: own?.state ?? 'open',
      aloneMs: effect?.aloneMs ?? 0,
      addedMs: effect?.addedMs ?? 0,
      aloneRange: scaled(ranges.get(group.id)?.alone, effect?.aloneMs ?? 0, factor),
      addedRange: scaled(ranges.get(group.id)?.added, effect?.addedMs ?? 0, factor),
      proof: proofOf(summaries, [group.id], visitor.id)?.text,
      coveredBy: effect?.coveredBy && titles.get(effect.coveredBy.id),
      ...(await details(store, group, pages)),
    });
  }
  return {
    head: {
      site,
      plan: asked.plan?.name ?? 'Tasks',
      visitor: visitor.name,
      pages: pages.length,
      day: sweep.day,
      nowMs: figures.now.lcpMs,
      afterMs: figures.after.lcpMs,
      range: scaledRange(range.lcpMs, figures.after.lcpMs, factor),
    },
    tasks,
  };
}

const scaled = (range: Range | undefined, estimate: number, factor: number) =>
  range && scaledRange(range, estimate, factor);

/** Changes of source and servers on every page of a group; the same change of several pages once. */
async function details(
  store: Store,
  group: FixGroup,
  pages: readonly Pick<BenchRow, 'row'>[],
): Promise<Pick<Task, 'changes' | 'server' | 'fixedWhen'>> {
  const changes = new Map<string, Task['changes'][number]>();
  const server = new Map<string, Task['server'][number]>();
  const checks = new Set<string>();
  for (const row of pages.filter((p) => group.fixes.some((f) => f.page === p.row.page))) {
    const opened = await openCapture(store, row.row.id);
    if (!opened) continue;
    const context = offerContext(opened.full, opened.page);
    const own = group.fixes.filter((f: Fix) => f.page === row.row.page);
    for (const fix of own) {
      for (const c of fixChanges(fix, context)) changes.set(`${c.url}:${c.line}:${c.after}`, c);
      for (const s of fixKind(fix.kind)?.onServer?.(fix, context) ?? []) server.set(JSON.stringify(s), s);
      for (const f of opened.full.findings) if (fix.findings.includes(f.id)) checks.add(f.check);
    }
  }
  return {
    changes: [...changes.values()],
    server: [...server.values()],
    fixedWhen: CHECKS.filter((c) => checks.has(c.id)).map((c) => c.fixedWhen),
  };
}
