import type { Audit } from '../../core/plan/audit';
import { fixChanges, fixKind } from '../../core/fixes';
import type { LineChange } from '../../core/fixes/edits';
import type { ServerChange } from '../../core/fixes/serverChange';
import type { Visitor } from '../../core/load/visitors';
import { deviceOf } from '../../core/load/visitors';
import { forecast, type Forecast } from '../../core/plan/forecast';
import type { Finding } from '../../core/checks/finding';

/** The document of `audit --json` (see docs/api.md). */
export interface AuditReport {
  readonly version: 1;
  readonly captures: readonly object[];
  readonly findings: readonly Finding[];
  readonly fixes: readonly ReportFix[];
  readonly notExamined: readonly { readonly what: string; readonly why: string }[];
}

interface ReportFix {
  readonly id: string;
  readonly kind: string;
  readonly target: string;
  readonly title: string;
  readonly findings: readonly string[];
  readonly effort: number;
  readonly edits: readonly LineChange[];
  /** What has to change outside the source. */
  readonly server: readonly ServerChange[];
  readonly forecasts: readonly Forecast[];
}

/** Puts audits into one report, with a forecast of each fix for each visitor whose device fits the capture. */
export function auditReport(audits: readonly Audit[], visitors: readonly Visitor[]): AuditReport {
  return {
    version: 1,
    captures: audits.map(({ page, hero }) => ({
      page: page.capture.page,
      requested: page.capture.requested,
      visitor: page.capture.device,
      recordedAt: page.capture.recordedAt,
      measured: page.capture.measured,
      hero: { element: hero.path, url: hero.url, kind: hero.kind, seen: hero.seen },
    })),
    findings: audits.flatMap((a) => a.findings),
    fixes: audits.flatMap((a) => {
      const fitting = visitors.filter((v) => deviceOf(v) === a.page.capture.device);
      const used = fitting.length > 0 ? fitting : visitors.slice(0, 1);
      return a.fixes.map((fix): ReportFix => {
        return {
          id: fix.id,
          kind: fix.kind,
          target: fix.target,
          title: fix.title,
          findings: fix.findings,
          effort: fix.effort,
          edits: fixChanges(fix, a).map(({ url, line, column, offset, before, after }) => ({
            url,
            line,
            column,
            offset,
            before: before.trim(),
            after: after.trim(),
          })),
          server: fixKind(fix.kind)?.onServer?.(fix, a) ?? [],
          forecasts: used.map((v) => forecast(a.graph, [fix], v)),
        };
      });
    }),
    notExamined: audits.flatMap((a) => a.page.capture.notes.map((why) => ({ what: a.page.capture.page, why }))),
  };
}
