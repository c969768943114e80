import { area, curveMonotoneX, scaleLinear, type ScaleLinear } from 'd3';
import { bytes, count, ms } from '../../ui/format';
import type { StoryRow, StorySide } from './storyLayout';

export const ROW = 18;
export const STRIP = 34;

export interface SideProps {
  readonly side: StorySide;
  readonly x: ScaleLinear<number, number>;
  /** Where the axis is; rows go up or down from it. */
  readonly edge: number;
  readonly upward: boolean;
  readonly width: number;
  /** Row of the step that is travelled to. */
  readonly at?: string;
  readonly opened: boolean;
  readonly onOpen: () => void;
  readonly onHover: (row: StoryRow | undefined) => void;
}

/** One side of the story: rows from the axis outwards, the hero's critical path as a joined path, the rest as a density. */
export function Side({ side, x, edge, upward, width, at, opened, onOpen, onHover }: SideProps) {
  const lane = (i: number) => (upward ? edge - 6 - (i + 1) * ROW + 4 : edge + 8 + i * ROW);
  const stripBase = upward ? edge - 6 - side.rows.length * ROW - 14 : edge + 8 + side.rows.length * ROW + 6;
  const top = Math.max(1, ...side.density.map((d) => d.n));
  const grow = scaleLinear([0, Math.max(6, top)], [0, STRIP - 16]);
  const shape = area<{ ms: number; n: number }>()
    .x((d) => x(d.ms))
    .y0(stripBase)
    .y1((d) => (upward ? stripBase - grow(d.n) : stripBase + grow(d.n)))
    .curve(curveMonotoneX);
  const way = side.rows.map((r, i) => ({ r, i })).filter(({ r }) => r.role === 'hero');
  const canOpen = side.others > 0 || opened;
  return (
    <g>
      {side.others > 0 && <path d={shape([...side.density]) ?? ''} className="density" />}
      {canOpen && (
        <text
          x={14}
          y={upward ? stripBase + 11 : stripBase + STRIP - 4}
          className="halo opens"
          role="button"
          tabIndex={0}
          aria-expanded={opened}
          onClick={onOpen}
          onPointerDown={(e) => e.stopPropagation()}
          onKeyDown={(e) => (e.key === 'Enter' || e.key === ' ') && (e.preventDefault(), onOpen())}
        >
          {side.others > 0
            ? `${count(side.others, 'other load')}, ${bytes(side.otherBytes)}${side.aheadOfHero > 0 ? `; ${side.aheadOfHero} requested before the hero` : ''} · ${opened ? 'close' : 'open'}`
            : 'every load has its row · close'}
        </text>
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
        <Bar key={r.key} row={r} y={lane(i)} x={x} width={width} at={r.key === at} onHover={onHover} />
      ))}
    </g>
  );
}

interface BarProps {
  readonly row: StoryRow;
  readonly y: number;
  readonly x: ScaleLinear<number, number>;
  readonly width: number;
  readonly at: boolean;
  readonly onHover: (row: StoryRow | undefined) => void;
}

function Bar({ row, y, x, width, at, onHover }: BarProps) {
  const [from = 0, to = 0] = x.domain();
  if (row.endMs < from || row.foundMs > to) return null;
  const end = x(row.endMs);
  const label = row.name.length > 26 ? row.name.slice(0, 25) + '…' : row.name;
  const room = width - end > label.length * 6 + 8;
  const kinds = ['bar', row.role, row.focus ? 'focus' : '', at ? 'at' : ''].filter(Boolean).join(' ');
  return (
    <g className={kinds} onPointerEnter={() => onHover(row)} onPointerLeave={() => onHover(undefined)}>
      <rect
        x={x(row.foundMs)}
        y={y - 4}
        width={Math.max(6, end - x(row.foundMs) + label.length * 6)}
        height={ROW}
        fill="transparent"
      />
      {row.kind === 'fetch' && (
        <>
          <rect
            x={x(row.foundMs)}
            y={y + 3.5}
            width={Math.max(0, x(row.sentMs) - x(row.foundMs))}
            height={3}
            className="wash"
          />
          <rect
            x={x(row.sentMs)}
            y={y + 0.5}
            width={Math.max(0, x(row.firstMs) - x(row.sentMs))}
            height={9}
            className="wait"
          />
        </>
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

/** A moment as a line with its name. */
export function Milestone(props: {
  x: ScaleLinear<number, number>;
  at: number;
  from: number;
  to: number;
  label: string;
  tone: 'cost' | 'gain';
  labelY: number;
  left: boolean;
}) {
  const { x, at, from, to, label, tone, labelY, left } = props;
  const [low = 0, high = 0] = x.domain();
  if (at < low || at > high) return null;
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

/** The rows of one side as a table. */
export function SideTable({ title, side }: { title: string; side: StorySide }) {
  const role = { hero: "hero's critical path", block: 'before anything shows', rest: 'everything else' } as const;
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
            <td>{role[r.role]}</td>
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
