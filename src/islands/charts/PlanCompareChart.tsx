import { count, ms, range } from '../ui/format';
import { planCompareLayout, type ComparedPlan } from './planCompareLayout';

/** Plans side by side on one axis of hero paint: now as a pale mark, after as a full one with its range. */
export function PlanCompareChart({ plans, width }: { plans: readonly ComparedPlan[]; width: number }) {
  const { x, ticks, marks, height } = planCompareLayout(plans, width);
  const best = [...plans].sort((a, b) => a.afterMs - b.afterMs)[0];
  return (
    <figure className="chart">
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`${count(plans.length, 'plan')} compared by hero paint.${best ? ` Lowest: ${best.name}, ${ms(best.afterMs)}.` : ''}`}
      >
        {ticks.map((t) => (
          <g key={t}>
            <path d={`M${x(t)} 0V${height - 18}`} stroke="var(--grid)" />
            <text x={x(t)} y={height - 5} textAnchor="middle">
              {t === 0 ? '0' : ms(t)}
            </text>
          </g>
        ))}
        {marks.map((m, i) => {
          const plan = plans[i] as ComparedPlan;
          return (
            <g key={m.key}>
              <text x={0} y={m.y + 4} className="k">
                {plan.name.length > 22 ? `${plan.name.slice(0, 21)}…` : plan.name}
                <title>{plan.name}</title>
              </text>
              <path d={`M${m.after} ${m.y}H${m.now}`} stroke="var(--gain)" strokeWidth={1.4} strokeDasharray="2 3" />
              <rect
                x={m.low}
                y={m.y - 7}
                width={Math.max(2, m.high - m.low)}
                height={14}
                fill="var(--gain-wash)"
                stroke="none"
              />
              <path d={`M${m.now} ${m.y - 8}v16`} stroke="var(--cost)" strokeWidth={2.4} />
              <path d={`M${m.after} ${m.y - 8}v16`} stroke="var(--gain)" strokeWidth={2.4} />
            </g>
          );
        })}
      </svg>
      <figcaption className="legend">
        <span>
          <i className="sw now" /> now
        </span>
        <span>
          <i className="sw after" /> with the plan, its range shaded
        </span>
      </figcaption>
      <details className="twin">
        <summary>As a table</summary>
        <table>
          <thead>
            <tr>
              <th>Plan</th>
              <th>Now</th>
              <th>With it</th>
              <th>Range</th>
              <th>Effort</th>
            </tr>
          </thead>
          <tbody>
            {plans.map((p) => (
              <tr key={p.key}>
                <td>{p.name}</td>
                <td>{ms(p.nowMs)}</td>
                <td>{ms(p.afterMs)}</td>
                <td>{range(p.range)}</td>
                <td>{p.effort} min</td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </figure>
  );
}
