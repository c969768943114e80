import { CONCERNS } from '../checks/concern';
import { bytesText } from '../checks/texts';
import { timeText } from '../handover/effectText';
import type { GateReport, Judged, Worse } from './judgeLimits';
import type { Limit, LimitedFigure } from './limits';

const NAMES: Readonly<Record<LimitedFigure, string>> = {
  lcpMs: 'hero paint (LCP)',
  fcpMs: 'first paint (FCP)',
  loadMs: 'load event',
  cls: 'layout shift (CLS)',
  bytes: 'bytes transferred',
  requests: 'requests',
  findings: 'findings',
};

/** What is limited: "hero paint (LCP) for phone-busy", "Mixed content findings (broken)". */
export function limitName(limit: Limit): string {
  if (limit.figure !== 'findings') return `${NAMES[limit.figure]} for ${limit.visitor.id}`;
  const concern = CONCERNS.find((c) => c.id === limit.concern)?.name;
  return `${concern ? `${concern} findings` : 'findings'}${limit.harm ? ` (${limit.harm})` : ''}`;
}

/** A value of a figure with its unit. */
export function figureText(figure: LimitedFigure, value: number): string {
  if (figure === 'bytes') return bytesText(value);
  if (figure === 'cls') return value.toFixed(3);
  return /Ms$/.test(figure) ? timeText(value) : String(value);
}

/** One limit in a line: what, value, limit, and where a time may really lie. */
export function judgedText(j: Judged): string {
  const { figure, most, tolerance } = j.limit;
  const range = j.range ? ` (${figureText(figure, j.range[0])} to ${figureText(figure, j.range[1])})` : '';
  const allowed = tolerance > 0 ? ` and ${Math.round(tolerance * 100)} % more` : '';
  const before = j.before === undefined ? '' : `; before it was ${figureText(figure, j.before)}`;
  return `${limitName(j.limit)} is ${figureText(figure, j.value)}${range}; at most ${figureText(figure, most)}${allowed} is allowed${before}`;
}

/** What became worse, in a line. */
export function worseText(w: Worse): string {
  const what = w.fix ? `${NAMES[w.figure]} after "${w.fix.title}"` : NAMES[w.figure];
  return `${what} for ${w.visitor} became worse: ${timeText(w.before)} before, ${timeText(w.after)} now`;
}

/** Why a gate let something through or stopped it, in one sentence. */
export function gateVerdict(report: GateReport): string {
  const broken = report.limits.filter((j) => j.broken).length;
  if (report.passed)
    return report.limits.length === 1 ? 'The limit holds.' : `All ${report.limits.length} limits hold.`;
  return [
    ...(broken > 0 ? [`${broken} of ${report.limits.length} limits ${broken === 1 ? 'is' : 'are'} broken`] : []),
    ...(report.worse.length > 0
      ? [`${report.worse.length === 1 ? 'one figure' : `${report.worse.length} figures`} became worse`]
      : []),
  ]
    .join(', and ')
    .concat('.');
}
