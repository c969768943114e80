import { scaleLinear, type ScaleLinear } from 'd3';
import type { FixGroup, Staircase } from '../../core/plan/staircase';
import { STOPS_PAYING_MS } from '../../core/plan/thresholds';

/** One step to draw. */
export interface StairMark {
  readonly id: string;
  readonly x: number;
  readonly width: number;
  readonly y: number;
  readonly nextY?: number;
  readonly bandTop: number;
  readonly bandBottom: number;
  readonly label: readonly string[];
  readonly ms: number;
  readonly first: boolean;
  readonly pays: boolean;
}

export interface StaircaseLayout {
  readonly y: ScaleLinear<number, number>;
  readonly ticks: readonly number[];
  readonly marks: readonly StairMark[];
  /** Where steps stop paying; undefined when all pay. */
  readonly stopsAt?: number;
}

/** Places the stairs; a pure function of the data and the size. */
export function staircaseLayout(
  data: Staircase<Pick<FixGroup, 'id' | 'title'>>,
  width: number,
  height: number,
): StaircaseLayout {
  const left = 44;
  const bottom = height - 46;
  const steps = [
    { ms: data.nowMs, range: [data.nowMs, data.nowMs] as const, id: 'now', title: 'now', won: Infinity },
  ].concat(
    data.stairs.map((s) => ({
      ms: s.lcpMs,
      range: [s.range[0], s.range[1]] as never,
      id: s.group.id,
      title: s.group.title,
      won: s.wonMs,
    })),
  );
  const top = Math.max(...steps.map((s) => s.range[1]), 1000);
  const y = scaleLinear([0, top], [bottom, 24]).nice(4);
  const column = (width - left) / Math.max(4, steps.length);
  const firstIdle = data.paying + 1;
  return {
    y,
    ticks: y.ticks(4),
    stopsAt: firstIdle < steps.length ? left + firstIdle * column : undefined,
    marks: steps.map((s, i) => ({
      id: s.id,
      x: left + i * column,
      width: column,
      y: y(s.ms),
      nextY: steps[i + 1] ? y((steps[i + 1] as { ms: number }).ms) : undefined,
      bandTop: y(s.range[1]),
      bandBottom: y(s.range[0]),
      label: wrap(s.title, Math.floor((column - 6) / 6.2), 3),
      ms: s.ms,
      first: i === 0,
      pays: s.won >= STOPS_PAYING_MS,
    })),
  };
}

/** Breaks a text into at most `lines` lines of about `width` characters. */
export function wrap(text: string, width: number, lines: number): string[] {
  const out: string[] = [];
  for (const word of text.split(' ')) {
    const last = out.at(-1);
    if (last !== undefined && last.length + word.length + 1 <= width) out[out.length - 1] = `${last} ${word}`;
    else out.push(word);
  }
  const kept = out.length <= lines ? out : [...out.slice(0, lines - 1), out.slice(lines - 1).join(' ')];
  return kept.map((l) => cut(l, width));
}

function cut(text: string, width: number): string {
  return text.length > width ? text.slice(0, Math.max(1, width - 1)).trimEnd() + '…' : text;
}
