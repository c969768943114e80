import { scaleLinear } from 'd3';
import { useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import type { LoadGraph } from '../../../core/load/graph';
import type { StoryAnswer } from '../../../workers/benchMessages';
import { ms } from '../../ui/format';
import { Kbd } from '../../ui/parts';
import { journey, loadsInSpan, zoomed } from './journey';
import { SpanList, StepLine } from './StoryDetail';
import { Milestone, ROW, Side, SideTable, STRIP } from './StorySide';
import { storySide, type StoryRow } from './storyLayout';

const HEAD = 34;
const LEFT = 14;
const SIDES = ['Now', 'With the bench applied'] as const;

export interface StoryProps {
  readonly story: Pick<StoryAnswer, 'now' | 'after' | 'afterGraph'>;
  readonly graph: LoadGraph;
  readonly width: number;
  readonly benchEmpty: boolean;
  /** What both sides are called. */
  readonly names?: readonly [now: string, after: string];
  /** Index of a recorded load to show in a row of its own. */
  readonly focus?: number;
}

/**
 * How the load unfolds: now above the axis, with the bench applied mirrored below it. Zoom, a span to list its loads,
 * and the arrow keys along what the hero waits for.
 */
export function StoryChart({ story, graph, width, benchEmpty, names = SIDES, focus }: StoryProps) {
  const until = wholeSpan(story);
  const [zoom, setZoom] = useState<readonly [number, number]>();
  const [span, setSpan] = useState<readonly [number, number]>();
  const [step, setStep] = useState<number>();
  const [hovered, setHovered] = useState<StoryRow>();
  const [opened, setOpened] = useState(false);
  const drag = useRef<number | undefined>(undefined);
  const domain = zoom ?? [0, until];
  const now = useMemo(
    () => storySide(graph, story.now, until, { focus, opened }),
    [graph, story, until, focus, opened],
  );
  const after = useMemo(
    () => storySide(story.afterGraph, story.after, until, { focus, opened }),
    [story, until, focus, opened],
  );
  const steps = useMemo(() => journey(graph, story.now), [graph, story]);
  const x = scaleLinear(domain, [LEFT, width - 120]).clamp(true);
  const up = HEAD + STRIP + now.rows.length * ROW;
  const axis = up + 16;
  const down = benchEmpty ? 0 : HEAD + STRIP + after.rows.length * ROW;
  const height = axis + 8 + down;
  const current = step === undefined ? undefined : steps[step];

  const goTo = (next: number) => {
    const to = Math.max(0, Math.min(steps.length - 1, next));
    const s = steps[to];
    setStep(to);
    // What is travelled to is kept in view.
    if (s && zoom && (s.fromMs < zoom[0] || s.toMs > zoom[1])) setZoom(zoomed(zoom, 1, until, (s.fromMs + s.toMs) / 2));
  };
  const scale = (factor: number, middle?: number) => {
    const next = zoomed(domain as [number, number], factor, until, middle);
    setZoom(next[1] - next[0] >= until - 1 ? undefined : next);
  };
  const onKeyDown = (e: KeyboardEvent) => {
    const run: Record<string, () => void> = {
      ArrowRight: () => goTo(step === undefined ? 0 : step + 1),
      ArrowLeft: () => goTo(step === undefined ? steps.length - 1 : step - 1),
      Home: () => goTo(0),
      End: () => goTo(steps.length - 1),
      '+': () => scale(0.5, current && (current.fromMs + current.toMs) / 2),
      '=': () => scale(0.5, current && (current.fromMs + current.toMs) / 2),
      '-': () => scale(2),
      '0': () => setZoom(undefined),
      Escape: () => (setStep(undefined), setSpan(undefined)),
    };
    const action = run[e.key];
    if (!action || e.ctrlKey || e.altKey || e.metaKey) return;
    e.preventDefault();
    action();
  };
  const timeAt = (e: PointerEvent<SVGSVGElement>) => x.invert(e.clientX - e.currentTarget.getBoundingClientRect().left);
  const pointer = {
    onPointerDown: (e: PointerEvent<SVGSVGElement>) => {
      if (e.button !== 0) return;
      drag.current = timeAt(e);
      e.currentTarget.setPointerCapture(e.pointerId);
    },
    onPointerMove: (e: PointerEvent<SVGSVGElement>) => {
      if (drag.current === undefined) return;
      const to = timeAt(e);
      if (Math.abs(x(to) - x(drag.current)) > 5) setSpan([Math.min(drag.current, to), Math.max(drag.current, to)]);
    },
    onPointerUp: (e: PointerEvent<SVGSVGElement>) => {
      if (drag.current !== undefined && Math.abs(x(timeAt(e)) - x(drag.current)) <= 5) setSpan(undefined);
      drag.current = undefined;
    },
  };
  const side = { x, width, opened, onOpen: () => setOpened(!opened), onHover: setHovered };
  return (
    <figure className="chart story">
      <div
        className="story-travel"
        tabIndex={0}
        role="group"
        aria-label="The load over time. Arrow right and left go along what the hero waits for, plus and minus zoom."
        onKeyDown={onKeyDown}
      >
        <svg
          width={width}
          height={height}
          role="group"
          aria-label={storySummary(story, benchEmpty, names)}
          {...pointer}
        >
          {x.ticks(8).map((t) => (
            <g key={t}>
              <path d={`M${x(t)} 18V${height - 4}`} stroke="var(--grid)" />
              <text x={x(t) + 3} y={up + 11}>
                {zoom ? `${Math.round(t)} ms` : `${t / 1000} s`}
              </text>
            </g>
          ))}
          {span && (
            <rect
              x={x(span[0])}
              y={18}
              width={Math.max(1, x(span[1]) - x(span[0]))}
              height={height - 22}
              className="span"
            />
          )}
          <path d={`M6 ${up}H${width}M6 ${axis}H${width}`} stroke="var(--ink)" strokeWidth={0.8} />
          <text x={6} y={11} className="k">
            {names[0]}
          </text>
          <Side {...side} side={now} edge={up} upward at={current?.key} />
          <Milestones story={story} which="now" x={x} from={22} to={up} labelY={20} />
          {!benchEmpty && (
            <>
              <text x={6} y={height - 2} className="k">
                {names[1]}
              </text>
              <Side {...side} side={after} edge={axis} upward={false} />
              <Milestones story={story} which="after" x={x} from={axis} to={height - 16} labelY={height - 16} />
            </>
          )}
          {current && (
            <path
              d={`M${x(current.fromMs)} ${up - 2}H${Math.max(x(current.fromMs) + 3, x(current.toMs))}`}
              className="step"
            />
          )}
        </svg>
      </div>
      <div className="story-tools">
        <span className="legend">
          <span>
            <i className="sw hero" /> the hero's critical path
          </span>
          <span>
            <i className="sw block" /> before anything shows
          </span>
          <span>
            <i className="sw rest" /> everything else
          </span>
          <span className="soft">thin: queued · pale: waiting for the server · solid: transfer</span>
        </span>
        <span className="right">
          <button className="link" onClick={() => goTo(step === undefined ? 0 : step + 1)}>
            Step by step
          </button>
          <button className="put" onClick={() => scale(0.5)} aria-label="Zoom in">
            +
          </button>
          <button className="put" onClick={() => scale(2)} disabled={!zoom} aria-label="Zoom out">
            −
          </button>
          <button className="put" onClick={() => setZoom(undefined)} disabled={!zoom}>
            all
          </button>
        </span>
      </div>
      <div className="story-line" aria-live="polite">
        {current ? (
          <StepLine
            step={current}
            place={`${(step ?? 0) + 1} of ${steps.length}`}
            onMove={(by) => goTo((step ?? 0) + by)}
            onClose={() => setStep(undefined)}
          />
        ) : hovered ? (
          <HoverLine row={hovered} />
        ) : (
          <span className="soft">
            Point at a load for its times; drag over a span to list what ran in it; <Kbd>→</Kbd> follows the hero's
            critical path.
          </span>
        )}
      </div>
      {span && (
        <SpanList
          span={span}
          now={loadsInSpan(graph, story.now, span[0], span[1])}
          onZoom={() => (setZoom(span), setSpan(undefined))}
          onClose={() => setSpan(undefined)}
        />
      )}
      <details className="twin">
        <summary>As a table</summary>
        <SideTable title={names[0]} side={now} />
        {!benchEmpty && <SideTable title={names[1]} side={after} />}
      </details>
    </figure>
  );
}

function HoverLine({ row }: { row: StoryRow }) {
  const sent = row.kind === 'fetch' ? `, requested at ${ms(row.sentMs)}, first byte ${ms(row.firstMs)}` : '';
  return (
    <span>
      <b>{row.name}</b>: {row.kind === 'fetch' ? 'found' : 'from'} {ms(row.foundMs)}
      {sent}, {row.kind === 'fetch' ? 'here' : 'to'} {ms(row.endMs)}. <span className="soft">{row.why}.</span>
    </span>
  );
}

function Milestones(props: {
  story: StoryProps['story'];
  which: 'now' | 'after';
  x: ReturnType<typeof scaleLinear<number, number>>;
  from: number;
  to: number;
  labelY: number;
}) {
  const { story, which, ...place } = props;
  const { fcpMs, lcpMs } = story[which].milestones;
  const tone = which === 'now' ? 'cost' : 'gain';
  return (
    <>
      <Milestone {...place} at={fcpMs} label={`first paint ${ms(fcpMs)}`} tone={tone} left />
      <Milestone {...place} at={lcpMs} label={`hero ${ms(lcpMs)}`} tone={tone} left={false} />
    </>
  );
}

/** Until when both sides are drawn: the heroes, and the rest of the load as far as it is near. */
function wholeSpan(story: StoryProps['story']): number {
  const ends = [story.now, story.after].flatMap(({ milestones: m }) => [m.lcpMs, Math.min(m.loadMs, m.lcpMs * 1.25)]);
  return Math.max(...ends) * 1.06;
}

function storySummary(s: StoryProps['story'], benchEmpty: boolean, names: readonly [string, string]): string {
  const times = ({ milestones: m }: StoryAnswer['now']) => `first paint ${ms(m.fcpMs)}, hero paint ${ms(m.lcpMs)}.`;
  const now = `${names[0]}: ${times(s.now)}`;
  return benchEmpty ? now : `${now} ${names[1]}: ${times(s.after)}`;
}
