import { useWidth } from '../ui/useWidth';
import { effectText } from '../ui/format';
import { proofScale, SCALE_ROW, type ScaleRow } from './proofScaleLayout';

/** The forecast with its range and the measured change with its spread, on one scale. */
export function ProofScale({ rows }: { rows: readonly ScaleRow[] }) {
  const { ref, width } = useWidth(300);
  const left = width < 560 ? 8 : 150;
  const laid = proofScale(rows, left, width);
  const height = 34 + rows.length * SCALE_ROW;
  return (
    <div ref={ref} className="proof-scale">
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={rows
          .map(
            (r) =>
              `${r.name}: promised ${effectText(r.promised, r.range)}, measured ${effectText(r.measured, r.interval)}`,
          )
          .join('; ')}
      >
        {laid.ticks.map((t) => (
          <g key={t.ms}>
            <path d={`M${t.x} 16V${height}`} stroke="var(--grid)" />
            <text x={t.x} y={11} textAnchor="middle" className="soft">
              {t.ms === 0 ? 'no change' : `${t.ms > 0 ? '+' : '−'}${Math.abs(t.ms / 1000)} s`}
            </text>
          </g>
        ))}
        <path d={`M${laid.zero} 16V${height}`} stroke="var(--ink)" />
        {laid.rows.map((r) => (
          <g key={r.name} transform={`translate(0 ${r.y})`}>
            <text x={left > 100 ? 0 : left} y={left > 100 ? 14 : -3}>
              {r.name}
            </text>
            <rect
              x={r.range[0]}
              y={2}
              width={Math.max(2, r.range[1] - r.range[0])}
              height={10}
              fill="var(--gain-wash)"
              stroke="var(--gain)"
            />
            <path d={`M${r.promised} 0V14`} stroke="var(--gain)" strokeWidth={2} />
            <path
              d={`M${r.interval[0]} 24H${r.interval[1]}M${r.interval[0]} 20v8M${r.interval[1]} 20v8`}
              stroke="var(--ink)"
              fill="none"
            />
            {r.dots.map((x, i) => (
              <circle key={i} cx={x} cy={24} r={2.5} fill="none" stroke="var(--soft)" />
            ))}
            <path d={`M${r.measured} 18l4.5 6l-4.5 6l-4.5 -6z`} fill="var(--ink)" />
          </g>
        ))}
      </svg>
      <p className="soft small proof-key">
        <span className="key-range" aria-hidden /> promised, with its range · <span aria-hidden>◆</span> measured,
        median with a 90 % interval · <span aria-hidden>○</span> single runs
      </p>
    </div>
  );
}
