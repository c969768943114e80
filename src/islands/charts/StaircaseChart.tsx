import type { FixGroup, Staircase } from '../../core/plan/staircase';
import { effectText, count, ms, range } from '../ui/format';
import { staircaseLayout } from './staircaseLayout';

/** Below this width steps would be too narrow to be read or hit, in px. */
const NARROW = 520;

/** The staircase as rows, for narrow screens: a bar a step. */
function StairRows({ data, chosen, onToggle, width }: Parameters<typeof StaircaseChart>[0]) {
  const bar = (ms: number) => Math.max(2, Math.round((width * ms) / Math.max(1, data.nowMs)));
  return (
    <ol className="stair-rows">
      <li>
        <span>Now</span>
        <b className="cost">{ms(data.nowMs)}</b>
        <i style={{ width: bar(data.nowMs) }} />
      </li>
      {data.stairs.map((s) => (
        <li key={s.group.id}>
          <button
            className="link plain-link"
            aria-pressed={chosen.includes(s.group.id)}
            onClick={() => onToggle(s.group.id)}
          >
            {chosen.includes(s.group.id) ? '✓ ' : ''}
            {s.group.title}
          </button>
          <b className="gain">{ms(s.lcpMs)}</b>
          <i style={{ width: bar(s.lcpMs) }} />
        </li>
      ))}
    </ol>
  );
}

/** Hero paint after each next fix, in the best order, with its range. */
export function StaircaseChart({
  data,
  chosen,
  onToggle,
  width,
}: {
  data: Staircase<Pick<FixGroup, 'id' | 'title' | 'pages'>>;
  chosen: readonly string[];
  onToggle: (id: string) => void;
  width: number;
}) {
  if (width < NARROW) return <StairRows data={data} chosen={chosen} onToggle={onToggle} width={width} />;
  const height = 232;
  const { y, ticks, marks, stopsAt } = staircaseLayout(data, width, height);
  const last = data.stairs.at(-1);
  return (
    <figure className="chart">
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`Hero paint (LCP): now ${ms(data.nowMs)}${last ? `, after ${count(data.stairs.length, 'fix', 'fixes')} ${ms(last.lcpMs)}` : ''}`}
      >
        {ticks.map((t) => (
          <g key={t}>
            <path d={`M44 ${y(t)}H${width}`} stroke="var(--line)" />
            <text x={36} y={y(t) + 4} textAnchor="end">
              {t / 1000} s
            </text>
          </g>
        ))}
        {(y.domain()[1] ?? 0) > 2500 && (
          <path d={`M44 ${y(2500)}H${width}`} stroke="var(--gain)" strokeDasharray="2 4" />
        )}
        {stopsAt !== undefined && (
          <>
            <path d={`M${stopsAt} 14V${height - 46}`} stroke="var(--faint)" strokeDasharray="1 3" />
            <text x={Math.min(stopsAt + 6, width - 168)} y={18}>
              each further fix saves under 0.1 s
            </text>
          </>
        )}
        {marks.map((m) => (
          <g key={m.id} className={m.first ? '' : 'stair'} onClick={m.first ? undefined : () => onToggle(m.id)}>
            {!m.first && <rect x={m.x} y={14} width={m.width} height={height - 14} fill="transparent" />}
            {!m.first && (
              <rect
                x={m.x}
                y={m.bandTop}
                width={m.width}
                height={Math.max(1, m.bandBottom - m.bandTop)}
                fill="var(--gain-wash)"
              />
            )}
            <path
              d={`M${m.x} ${m.y}h${m.width}${m.nextY === undefined ? '' : `V${m.nextY}`}`}
              fill="none"
              stroke={m.first ? 'var(--cost)' : m.pays ? 'var(--gain)' : 'var(--slate)'}
              strokeWidth={2.4}
            />
            <text x={m.x + 4} y={m.y - 6} className="k">
              {ms(m.ms)}
            </text>
            {m.label.map((line, i) => (
              <text key={i} x={m.x + 4} y={height - 32 + i * 12}>
                {line}
              </text>
            ))}
            {chosen.includes(m.id) && (
              <path d={`M${m.x + 4} ${height - 44}h${m.width - 10}`} stroke="var(--gain)" strokeWidth={3} />
            )}
          </g>
        ))}
        {(y.domain()[1] ?? 0) > 2500 && (
          <text x={48} y={y(2500) + 13} className="gain halo">
            "good" LCP: 2.5 s
          </text>
        )}
      </svg>
      <details className="twin">
        <summary>As a table</summary>
        <table>
          <thead>
            <tr>
              <th>Fix</th>
              <th>Hero paint (LCP) after it</th>
              <th>Range</th>
              <th>Wins here</th>
              <th>Alone</th>
              <th>Pages</th>
            </tr>
          </thead>
          <tbody>
            <tr>
              <td>now</td>
              <td>{ms(data.nowMs)}</td>
              <td />
              <td />
              <td />
              <td />
            </tr>
            {data.stairs.map((s) => (
              <tr key={s.group.id}>
                <td>{s.group.title}</td>
                <td>{ms(s.lcpMs)}</td>
                <td>{range(s.range)}</td>
                <td>{effectText(-s.wonMs)}</td>
                <td>{effectText(-s.aloneMs)}</td>
                <td>{s.group.pages}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </figure>
  );
}
