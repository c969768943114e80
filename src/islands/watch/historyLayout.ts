import { area, line, scaleLinear, scaleTime } from 'd3';
import type { HistoryEvent, HistoryPoint } from '../../core/watch/history';

/** A figure over time, ready to be drawn. */
export interface HistoryDrawing {
  readonly line: string;
  /** Where nine of ten loads lie; empty where that is not known. */
  readonly band: string;
  readonly points: readonly (HistoryPoint & { readonly x: number; readonly y: number })[];
  /** Events by day: those of one day share a mark, which has their numbers in the list beneath. */
  readonly marks: readonly { readonly x: number; readonly day: string; readonly numbers: readonly number[] }[];
  readonly yTicks: readonly { readonly value: number; readonly y: number }[];
  readonly xTicks: readonly { readonly label: string; readonly x: number }[];
}

const PAD = { left: 62, right: 14, top: 12, bottom: 44 } as const;

/** Lays a history out; the scale begins at zero, so that a small change looks small. */
export function historyLayout(
  points: readonly HistoryPoint[],
  events: readonly HistoryEvent[],
  width: number,
  height: number,
): HistoryDrawing {
  const time = (day: string) => Date.parse(`${day}T00:00:00Z`);
  const days = [...points.map((p) => p.day), ...events.map((e) => e.day)].map(time);
  const [from, to] = [Math.min(...days), Math.max(...days)];
  const x = scaleTime([from, to === from ? from + 1 : to], [PAD.left, width - PAD.right]);
  const most = Math.max(1e-9, ...points.map((p) => p.range?.[1] ?? p.value));
  const y = scaleLinear([0, most], [height - PAD.bottom, PAD.top]).nice(4);
  const placed = points.map((p) => ({ ...p, x: x(time(p.day)), y: y(p.value) }));
  const ranged = placed.flatMap((p) => (p.range ? [{ x: p.x, low: y(p.range[0]), high: y(p.range[1]) }] : []));
  const byDay = new Map<string, number[]>();
  events.forEach((e, i) => byDay.set(e.day, [...(byDay.get(e.day) ?? []), i + 1]));
  return {
    line:
      line<(typeof placed)[number]>(
        (p) => p.x,
        (p) => p.y,
      )(placed) ?? '',
    band:
      ranged.length > 1
        ? (area<(typeof ranged)[number]>(
            (p) => p.x,
            (p) => p.low,
            (p) => p.high,
          )(ranged) ?? '')
        : '',
    points: placed,
    marks: [...byDay].map(([day, numbers]) => ({ x: x(time(day)), day, numbers })),
    yTicks: y.ticks(4).map((value) => ({ value, y: y(value) })),
    xTicks: ticksOf(points, x, time, width),
  };
}

/** Days of sweeps, as many as fit. */
function ticksOf(
  points: readonly HistoryPoint[],
  x: (t: number) => number,
  time: (day: string) => number,
  width: number,
): { label: string; x: number }[] {
  const out: { label: string; x: number }[] = [];
  const apart = width < 500 ? 70 : 84;
  for (const p of points) {
    const at = x(time(p.day));
    if (out.length > 0 && at - (out.at(-1)?.x ?? 0) < apart) continue;
    const label = new Date(time(p.day)).toLocaleDateString('en-GB', {
      day: 'numeric',
      month: 'short',
      year: '2-digit',
      timeZone: 'UTC',
    });
    out.push({ label, x: at });
  }
  return out;
}
