import type { Finding } from '../checks/finding';
import { applyFixes } from '../fixes/applyFixes';
import type { Range } from '../load/range';
import { simulate } from '../load/simulate';
import { deviceOf, type Visitor } from '../load/visitors';
import type { Audit } from '../plan/audit';
import { changeOf } from '../plan/forecast';
import { timeFigure } from '../watch/simulatedFigures';
import type { Limit } from './limits';

/** What one limit says of one page. */
export interface Judged {
  readonly limit: Limit;
  readonly page: string;
  readonly value: number;
  /** For times: where nine of ten forecasts would lie (10th to 90th percentile, and the model's own error). */
  readonly range?: Range;
  readonly broken: boolean;
  /** The same figure of the capture that it is compared with. */
  readonly before?: number;
}

/** What became worse against another capture of the page: a time beyond doubt, or what a fix would leave. */
export interface Worse {
  readonly page: string;
  readonly visitor: string;
  readonly figure: 'fcpMs' | 'lcpMs';
  /** The fix whose result became worse; undefined for the page as it is. */
  readonly fix?: { readonly kind: string; readonly target: string; readonly title: string };
  readonly before: number;
  readonly after: number;
}

/** Everything that a gate has to say of a capture. */
export interface GateReport {
  readonly version: 1;
  readonly passed: boolean;
  readonly limits: readonly Judged[];
  readonly worse: readonly Worse[];
  /** Findings that the other capture does not have. */
  readonly newFindings: readonly Finding[];
}

/** Less than this is no difference: of 40 ms and 8 % of the time, the larger. */
const doubt = (ms: number) => Math.max(40, 0.08 * ms);

/**
 * Checks the pages of a capture against limits. A limit is for the pages that were recorded with its visitor's kind of
 * device; where there is none, for all.
 * @param against the same pages as they were before: what became worse beyond doubt fails as well
 */
export function judgeLimits(
  audits: readonly Audit[],
  limits: readonly Limit[],
  against: readonly Audit[] = [],
): GateReport {
  const judged = limits.flatMap((limit) =>
    pagesFor(audits, limit.visitor).map((audit): Judged => {
      const before = sameOf(against, audit);
      const { value, range } = valueOf(audit, limit);
      return {
        limit,
        page: audit.page.capture.page,
        value,
        range,
        broken: value > limit.most * (1 + limit.tolerance),
        ...(before && { before: valueOf(before, limit).value }),
      };
    }),
  );
  const visitors = [...new Map(limits.map((l) => [l.visitor.id, l.visitor])).values()];
  const worse = visitors.flatMap((visitor) =>
    pagesFor(audits, visitor).flatMap((audit) => {
      const before = sameOf(against, audit);
      return before ? worseThan(before, audit, visitor) : [];
    }),
  );
  const known = new Set(against.flatMap((a) => a.findings.map((f) => f.id)));
  const newFindings = against.length === 0 ? [] : audits.flatMap((a) => a.findings.filter((f) => !known.has(f.id)));
  return {
    version: 1,
    passed: !judged.some((j) => j.broken) && worse.length === 0,
    limits: judged,
    worse,
    newFindings,
  };
}

function pagesFor(audits: readonly Audit[], visitor: Visitor): readonly Audit[] {
  const own = audits.filter((a) => a.page.capture.device === deviceOf(visitor));
  return own.length > 0 ? own : audits;
}

const sameOf = (against: readonly Audit[], audit: Audit): Audit | undefined =>
  against.find(
    (a) => a.page.capture.page === audit.page.capture.page && a.page.capture.device === audit.page.capture.device,
  ) ?? (against.length === 1 ? against[0] : undefined);

function valueOf(audit: Audit, limit: Limit): { value: number; range?: Range } {
  const { figure } = limit;
  if (figure === 'findings') {
    const counted = audit.findings.filter(
      (f) => (limit.concern ?? f.concern) === f.concern && (limit.harm ?? f.harm) === f.harm,
    );
    return { value: counted.length };
  }
  const now = simulate(audit.graph, limit.visitor).milestones;
  if (figure === 'cls') return { value: now.cls ?? 0 };
  if (figure === 'bytes' || figure === 'requests') return { value: now[figure] };
  return timeFigure(audit.graph, limit.visitor, figure);
}

function worseThan(before: Audit, after: Audit, visitor: Visitor): Worse[] {
  const page = after.page.capture.page;
  const out: Worse[] = [];
  for (const figure of ['fcpMs', 'lcpMs'] as const) {
    const was = timeFigure(before.graph, visitor, figure).value;
    const is = timeFigure(after.graph, visitor, figure).value;
    if (is - was > doubt(was)) out.push({ page, visitor: visitor.id, figure, before: was, after: is });
  }
  // Where the page itself is no worse, what a fix would leave may be.
  if (out.length > 0) return out;
  for (const fix of after.fixes) {
    const same = before.fixes.find((f) => f.kind === fix.kind && f.target === fix.target);
    if (!same) continue;
    const left = (audit: Audit, f: typeof fix) =>
      timeFigure(audit.graph, visitor, 'lcpMs').value +
      changeOf(audit.graph, applyFixes(audit.graph, [f]), visitor).change.lcpMs;
    const was = Math.round(left(before, same));
    const is = Math.round(left(after, fix));
    if (is - was > doubt(was))
      out.push({
        page,
        visitor: visitor.id,
        figure: 'lcpMs',
        fix: { kind: fix.kind, target: fix.target, title: fix.title },
        before: was,
        after: is,
      });
  }
  return out;
}
