import { area, curveMonotoneX, scaleLinear, type ScaleLinear } from 'd3';
import type { LoadGraph } from '../../core/load/graph';
import type { Replay } from '../../core/load/replay';
import type { StoryAnswer } from '../../workers/benchMessages';
import { bytes, count, ms } from '../ui/format';
import { storySide, type StoryRow, type StorySide } from './storyLayout';

const ROW = 18;
const STRIP = 34;
const HEAD = 34;

/** How the load unfolds: now above the axis, with the bench applied mirrored below it. */
export function StoryChart({
  story,
  graph,
  width,
  benchEmpty,
  focus,
}: {
  story: StoryAnswer;
  graph: LoadGraph;
  width: number;
  benchEmpty: boolean;
  /** Index of a recorded load to show in a row of its own. */
  focus?: number;
}) {
  const until =
    Math.max(
      ...[story.now, story.after].flatMap((r) => [
        r.milestones.lcpMs,
        Math.min(r.milestones.loadMs, r.milestones.lcpMs * 1.25),
      ]),
    ) * 1.06;
  const now = storySide(graph, story.now, until, focus);
  const after = storySide(story.afterGraph, story.after, until, focus);
  const x = scaleLinear([0, until], [14, width - 120]);
  const up = HEAD + STRIP + now.rows.length * ROW;
  const axis = up + 16;
  const down = benchEmpty ? 0 : HEAD + STRIP + after.rows.length * ROW;
  const height = axis + 8 + down;
  return (
    <figure className="chart">
      <svg width={width} height={height} role="img" aria-label={storySummary(story, benchEmpty)}>
        {x.ticks(8).map((t) => (
          <g key={t}>
            <path d={`M${x(t)} 18V${height - 4}`} stroke="var(--grid)" />
            <text x={x(t) + 3} y={up + 11}>
              {t / 1000} s
            </text>
          </g>
        ))}
        <path d={`M6 ${up}H${width}M6 ${axis}H${width}`} stroke="var(--ink)" strokeWidth={0.8} />
        <text x={6} y={11} className="k">
          Now
        </text>
        <Side side={now} x={x} edge={up} upward replay={story.now} width={width} />
        <Milestone
          x={x}
          at={story.now.milestones.fcpMs}
          from={22}
          to={up}
          label={`first paint ${ms(story.now.milestones.fcpMs)}`}
          tone="cost"
          labelY={20}
          left
        />
        <Milestone
          x={x}
          at={story.now.milestones.lcpMs}
          from={22}
          to={up}
          label={`hero ${ms(story.now.milestones.lcpMs)}`}
          tone="cost"
          labelY={20}
          left={false}
        />
        {!benchEmpty && (
          <>
            <text x={6} y={height - 2} className="k">
              With the bench applied
            </text>
            <Side side={after} x={x} edge={axis} upward={false} replay={story.after} width={width} />
            <Milestone
              x={x}
              at={story.after.milestones.fcpMs}
              from={axis}
              to={height - 16}
              label={`first paint ${ms(story.after.milestones.fcpMs)}`}
              tone="gain"
              labelY={height - 16}
              left
            />
            <Milestone
              x={x}
              at={story.after.milestones.lcpMs}
              from={axis}
              to={height - 16}
              label={`hero ${ms(story.after.milestones.lcpMs)}`}
              tone="gain"
              labelY={height - 16}
              left={false}
            />
          </>
        )}
      </svg>
      <figcaption className="legend">
        <span>
          <i className="sw hero" /> the hero's way (joined by the dashed line)
        </span>
        <span>
          <i className="sw block" /> before anything shows
        </span>
        <span>
          <i className="sw rest" /> everything else, as density
        </span>
        <span className="soft">thin: waiting to be asked for · pale: waiting for the server · full: arriving</span>
      </figcaption>
      <details className="twin">
        <summary>As a table</summary>
        <SideTable title="Now" side={now} />
        {!benchEmpty && <SideTable title="With the bench applied" side={after} />}
      </details>
    </figure>
  );
}

function storySummary(s: StoryAnswer, benchEmpty: boolean): string {
  const now = `Now: first paint ${ms(s.now.milestones.fcpMs)}, hero painted ${ms(s.now.milestones.lcpMs)}.`;
  return benchEmpty
    ? now
    : `${now} With the bench applied: first paint ${ms(s.after.milestones.fcpMs)}, hero painted ${ms(s.after.milestones.lcpMs)}.`;
}

interface SideProps {
  readonly side: StorySide;
  readonly x: ScaleLinear<number, number>;
  readonly edge: number;
  readonly upward: boolean;
  readonly replay: Replay;
  readonly width: number;
}

function Side({ side, x, edge, upward, width }: SideProps) {
  const lane = (i: number) => (upward ? edge - 6 - (i + 1) * ROW + 4 : edge + 8 + i * ROW);
  const stripBase = upward ? edge - 6 - side.rows.length * ROW - 4 : edge + 8 + side.rows.length * ROW + 6;
  const top = Math.max(1, ...side.density.map((d) => d.n));
  const grow = scaleLinear([0, Math.max(6, top)], [0, STRIP - 16]);
  const shape = area<{ ms: number; n: number }>()
    .x((d) => x(d.ms))
    .y0(stripBase)
    .y1((d) => (upward ? stripBase - grow(d.n) : stripBase + grow(d.n)))
    .curve(curveMonotoneX);
  const way = side.rows.map((r, i) => ({ r, i })).filter(({ r }) => r.role === 'hero');
  return (
    <g>
      {side.others > 0 && (
        <>
          <path d={shape([...side.density]) ?? ''} className="density" />
          <text x={14} y={upward ? stripBase + 11 : stripBase + STRIP - 4} className="halo">
            {count(side.others, 'other load')}, {bytes(side.otherBytes)}
            {side.aheadOfHero > 0 ? `; ${side.aheadOfHero} asked for before the hero` : ''}
          </text>
        </>
      )}
      {way.slice(1).map(({ r, i }, k) => {
        const from = way[k] as { r: StoryRow; i: number };
        const x1 = x(Math.min(from.r.endMs, r.foundMs));
        const x2 = x(r.foundMs);
        return (
          <path
            key={r.key}
            d={`M${x1} ${lane(from.i) + 5}C${(x1 + x2) / 2} ${lane(from.i) + 5},${x2 - 4} ${lane(i) + 5},${x2} ${lane(i) + 5}`}
            className="way"
          />
        );
      })}
      {side.rows.map((r, i) => (
        <Bar key={r.key} row={r} y={lane(i)} x={x} width={width} />
      ))}
    </g>
  );
}

function Bar({ row, y, x, width }: { row: StoryRow; y: number; x: ScaleLinear<number, number>; width: number }) {
  const end = x(row.endMs);
  const label = row.name.length > 26 ? row.name.slice(0, 25) + '…' : row.name;
  const room = width - end > label.length * 6 + 8;
  return (
    <g className={row.focus ? `bar ${row.role} focus` : `bar ${row.role}`}>
      <title>{`${row.name}: found ${ms(row.foundMs)}${row.kind === 'fetch' ? `, asked for ${ms(row.sentMs)}, first byte ${ms(row.firstMs)}` : ''}, end ${ms(row.endMs)}${row.bytes ? `, ${bytes(row.bytes)}` : ''}. ${row.why}.`}</title>
      {row.kind === 'fetch' && (
        <rect
          x={x(row.foundMs)}
          y={y + 3.5}
          width={Math.max(0, x(row.sentMs) - x(row.foundMs))}
          height={3}
          className="wash"
        />
      )}
      {row.kind === 'fetch' && (
        <rect
          x={x(row.sentMs)}
          y={y + 0.5}
          width={Math.max(0, x(row.firstMs) - x(row.sentMs))}
          height={9}
          className="wait"
        />
      )}
      <rect
        x={x(row.firstMs)}
        y={y + 0.5}
        width={Math.max(1.5, end - x(row.firstMs))}
        height={9}
        className={row.kind === 'script' ? 'run' : 'full'}
      />
      <text x={room ? end + 4 : x(row.foundMs) - 4} y={y + 9} textAnchor={room ? 'start' : 'end'} className="k halo">
        {label}
      </text>
    </g>
  );
}

function Milestone({
  x,
  at,
  from,
  to,
  label,
  tone,
  labelY,
  left,
}: {
  x: ScaleLinear<number, number>;
  at: number;
  from: number;
  to: number;
  label: string;
  tone: 'cost' | 'gain';
  labelY: number;
  left: boolean;
}) {
  return (
    <>
      <path d={`M${x(at)} ${from}V${to}`} stroke={`var(--${tone})`} strokeWidth={1.6} />
      <text
        x={x(at) + (left ? -4 : 4)}
        y={labelY}
        textAnchor={left ? 'end' : 'start'}
        className={`${tone} halo strong`}
      >
        {label}
      </text>
    </>
  );
}

function SideTable({ title, side }: { title: string; side: StorySide }) {
  return (
    <table>
      <caption>{title}</caption>
      <thead>
        <tr>
          <th>What</th>
          <th>Part</th>
          <th>Found</th>
          <th>Asked for</th>
          <th>First byte</th>
          <th>End</th>
          <th>Why then</th>
        </tr>
      </thead>
      <tbody>
        {side.rows.map((r) => (
          <tr key={r.key}>
            <td>{r.name}</td>
            <td>{r.role === 'hero' ? "hero's way" : 'before anything shows'}</td>
            <td>{ms(r.foundMs)}</td>
            <td>{r.kind === 'fetch' ? ms(r.sentMs) : ''}</td>
            <td>{r.kind === 'fetch' ? ms(r.firstMs) : ''}</td>
            <td>{ms(r.endMs)}</td>
            <td>{r.why}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
