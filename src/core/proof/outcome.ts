import type { Device } from '../capture/capture';
import { applyFixes } from '../fixes/applyFixes';
import type { Fix } from '../fixes/fix';
import type { LoadGraph } from '../load/graph';
import type { Range } from '../load/range';
import { simulate } from '../load/simulate';
import { deviceOf, type Visitor } from '../load/visitors';
import { forecast } from '../plan/forecast';
import type { Outcome, OutcomeFinding, OutcomeVerdict, PageOutcome } from './outcomeWords';

/** What became of fixes that somebody says are done: the recording after them compared with the one before. */

/** A page as it was recorded. */
export interface Recorded {
  readonly page: string;
  readonly device: Device;
  readonly graph: LoadGraph;
  readonly findings: readonly OutcomeFinding[];
  readonly fixes: readonly Fix[];
}

/** A difference is none below this, or below this share of the base. */
const DOUBT = { ms: 40, share: 0.05 };

/**
 * Holds done fixes to account.
 * @param before recordings before the fixes, by page and device
 * @param after recordings after them
 * @param done groups of fixes that are said to be done, with their titles
 * @param wereGone verdicts on groups whose findings were gone when they were looked at last: what is there again came
 *   back, and what is still gone keeps its verdict, since other changes have come between
 */
export function outcomeOf(
  before: readonly Recorded[],
  after: readonly Recorded[],
  done: readonly { readonly group: string; readonly title: string }[],
  visitor: Visitor,
  wereGone: ReadonlyMap<string, OutcomeVerdict> = new Map(),
): Outcome {
  const groups = new Set(done.map((d) => d.group));
  const pairs = before.flatMap((b) => {
    const a = after.find((r) => r.page === b.page && r.device === b.device);
    const own = b.fixes.filter((f) => groups.has(f.group));
    return a && own.length > 0 ? [{ b, a, own }] : [];
  });
  const pages = pairs.map(({ b, a, own }) => pageOutcome(b, a, own, visitor));
  // What is still there was not done: what the others won is judged by what they alone had promised.
  const judged = pairs.flatMap(({ b, a, own }, i) => {
    const measuredMs = pages[i]?.measuredMs;
    const really = own.filter((f) => !a.findings.some((o) => f.findings.includes(o.id)));
    if (measuredMs === undefined || really.length === 0) return [];
    const { before: base, range } = forecast(b.graph, really, visitor);
    return [{ groups: really.map((f) => f.group), measuredMs, range: range.lcpMs, base: base.lcpMs }];
  });
  return {
    fixes: done.map(({ group, title }) => {
      const own = pairs.filter((p) => p.own.some((f) => f.group === group));
      const still = own.flatMap(({ b, a, own: fixes }) => {
        const ids = new Set(fixes.filter((f) => f.group === group).flatMap((f) => f.findings));
        return a.findings.filter((f) => ids.has(f.id) && b.findings.some((o) => o.id === f.id));
      });
      const gone = own.flatMap(({ b, a, own: fixes }) => {
        const ids = new Set(fixes.filter((f) => f.group === group).flatMap((f) => f.findings));
        return b.findings.filter((f) => ids.has(f.id) && !a.findings.some((o) => o.id === f.id));
      });
      const checks = new Set(gone.map((f) => f.check));
      const replaced = own.flatMap(({ b, a }) =>
        a.findings.filter((f) => checks.has(f.check) && !b.findings.some((o) => o.id === f.id)),
      );
      return {
        group,
        title,
        gone: gone.length,
        still: unique(still),
        replaced: unique(replaced),
        verdict:
          own.length === 0
            ? 'not looked at'
            : still.length > 0
              ? wereGone.has(group)
                ? 'came back'
                : gone.length > 0
                  ? 'partly done'
                  : 'not done'
              : (settled(wereGone.get(group)) ?? timeVerdict(judged.filter((j) => j.groups.includes(group)))),
      };
    }),
    pages,
    promisedMs: mean(pages.flatMap((p) => p.promisedMs ?? [])),
    measuredMs: mean(pages.flatMap((p) => p.measuredMs ?? [])),
  };
}

function pageOutcome(b: Recorded, a: Recorded, own: readonly Fix[], visitor: Visitor): PageOutcome {
  const outcome = {
    page: b.page,
    device: b.device,
    groups: [...new Set(own.map((f) => f.group))],
    waits: { beforeMs: waitOf(b.graph), afterMs: waitOf(a.graph) },
    fresh: a.findings.filter((f) => !b.findings.some((o) => o.id === f.id)),
  };
  if (b.device !== deviceOf(visitor)) return outcome;
  const promised = forecast(b.graph, own, visitor);
  // A fix of the server's wait is measured by the waits themselves.
  const faster = own.some((f) => f.kind === 'server-faster');
  const then = faster ? a.graph : withWaitsOf(a.graph, applyFixes(b.graph, own));
  return {
    ...outcome,
    promisedMs: promised.change.lcpMs,
    range: promised.range.lcpMs,
    measuredMs: simulate(then, visitor).milestones.lcpMs - promised.before.lcpMs,
  };
}

/** A graph whose servers take as long as those of an earlier recording: a busy moment is no failure of a fix. */
function withWaitsOf(graph: LoadGraph, earlier: LoadGraph): LoadGraph {
  const known = new Map(earlier.fetches.map((f) => [f.url, f]));
  const fetches = graph.fetches.map((f) => {
    const { serverMs, pauses } = known.get(f.url) ?? f;
    return { ...f, serverMs, pauses };
  });
  return { ...graph, fetches };
}

const waitOf = (graph: LoadGraph) => Math.round(graph.fetches[graph.document.fetch]?.serverMs ?? 0);

/** Over all pages that a fix is on: kept when the measured change lies in the range, give or take what is no difference. */
function timeVerdict(
  pages: readonly { readonly measuredMs: number; readonly range: Range; readonly base: number }[],
): OutcomeVerdict {
  if (pages.length === 0) return 'kept';
  const measured = mean(pages.map((p) => p.measuredMs));
  const doubt = Math.max(DOUBT.ms, DOUBT.share * mean(pages.map((p) => p.base)));
  if (measured > mean(pages.map((p) => p.range[1])) + doubt) return 'less';
  if (measured < mean(pages.map((p) => p.range[0])) - doubt) return 'more';
  return 'kept';
}

/** A verdict on what a fix has won, if it is one. */
const settled = (verdict: OutcomeVerdict | undefined) =>
  verdict === 'kept' || verdict === 'less' || verdict === 'more' ? verdict : undefined;

/** Of a sweep's recordings those that offer some groups of fixes, with these fixes alone, and the groups that none offers. */
export function offering(
  recordings: readonly Recorded[],
  groups: ReadonlySet<string>,
): { readonly offered: readonly Recorded[]; readonly missing: ReadonlySet<string> } {
  const offered = recordings.flatMap((r) => {
    const fixes = r.fixes.filter((f) => groups.has(f.group));
    return fixes.length > 0 ? [{ ...r, fixes }] : [];
  });
  const found = new Set(offered.flatMap((r) => r.fixes.map((f) => f.group)));
  return { offered, missing: new Set([...groups].filter((g) => !found.has(g))) };
}

const mean = (list: readonly number[]) => (list.length === 0 ? 0 : list.reduce((a, b) => a + b, 0) / list.length);

const unique = (list: readonly OutcomeFinding[]) => [...new Map(list.map((f) => [f.id, f])).values()];
