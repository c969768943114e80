import type { ReactNode } from 'react';
import { scaleLinear } from 'd3';
import type { Range } from '../../core/load/range';
import { range as rangeText } from '../ui/format';

const WIDTH = 236;

/** One figure of the bench: now as a pale bar, after as a full one, the range below. */
export function BenchBar(props: {
  name: ReactNode;
  label: string;
  now: number;
  after: number;
  range?: Range;
  format: (n: number) => string;
  scale: number;
}) {
  const { now, after, range, format } = props;
  const x = scaleLinear([0, Math.max(1, props.scale)], [0, WIDTH]).clamp(true);
  const same = format(now) === format(after);
  return (
    <div className="bench-bar">
      <div className="between">
        <span>{props.name}</span>
        <span>
          <span className="cost">{format(now)}</span>
          {!same && (
            <>
              {' → '}
              <b className="gain">{format(after)}</b>
            </>
          )}
        </span>
      </div>
      <svg
        width={WIDTH}
        height={range && !same ? 24 : 10}
        role="img"
        aria-label={`${props.label}: now ${format(now)}, with the bench ${format(after)}${range ? `, range ${rangeText(range)}` : ''}`}
      >
        <rect y={1} width={x(now)} height={7} fill="var(--cost-wash)" />
        <rect y={1} width={x(after)} height={7} fill={same ? 'var(--cost)' : 'var(--gain)'} />
        {range && !same && (
          <>
            <path
              d={`M${x(range[0])} 13H${x(range[1])}M${x(range[0])} 10v6M${x(range[1])} 10v6`}
              stroke="var(--gain)"
              fill="none"
            />
            <text x={Math.min(x(range[1]) + 5, WIDTH - 62)} y={x(range[1]) + 70 > WIDTH ? 24 : 17}>
              {rangeText(range)}
            </text>
          </>
        )}
      </svg>
    </div>
  );
}
