import { sum } from 'd3';
import type { HeroSplit } from '../../core/load/replay';
import { ms } from '../ui/format';
import { Term } from '../ui/parts';
import { splitLayout, SPLIT_PARTS } from './splitLayout';

const HEIGHT = 10;

/** The hero's time in four parts, now and with the bench, on one scale. */
export function SplitChart({ now, after, width }: { now: HeroSplit; after?: HeroSplit; width: number }) {
  const total = (s: HeroSplit) => sum(SPLIT_PARTS, (p) => s[p.key]);
  const most = Math.max(total(now), after ? total(after) : 0);
  const plot = Math.max(120, width - 120);
  const rows = [
    { name: 'now', split: now, tone: 'now' },
    ...(after ? [{ name: 'with the bench', split: after, tone: 'after' }] : []),
  ];
  return (
    <figure className="chart split-chart">
      {rows.map(({ name, split, tone }) => (
        <div key={name} className="split-row">
          <span className="soft small">{name}</span>
          <svg
            width={plot}
            height={HEIGHT + 2}
            role="img"
            aria-label={`The hero’s time, ${name}: ${SPLIT_PARTS.map((p) => `${p.name} ${ms(split[p.key])}`).join(', ')}`}
          >
            {splitLayout(split, most, plot).map((p) => (
              <rect
                key={p.key}
                x={p.x}
                y={p.key === 'untilFoundMs' ? HEIGHT / 2 - 1 : 1}
                width={Math.max(p.ms > 0 ? 1 : 0, p.width)}
                height={p.key === 'untilFoundMs' ? 4 : HEIGHT}
                className={`split-part ${tone} ${p.key}`}
              >
                <title>{`${p.name}: ${ms(p.ms)}`}</title>
              </rect>
            ))}
          </svg>
        </div>
      ))}
      <table className="split-table">
        <tbody>
          <tr>
            {SPLIT_PARTS.map((p) => (
              <td key={p.key}>
                <Term means={p.means}>{p.name}</Term> <span className="cost">{ms(now[p.key])}</span>
                {after && ms(after[p.key]) !== ms(now[p.key]) && (
                  <>
                    {' → '}
                    <b className="gain">{ms(after[p.key])}</b>
                  </>
                )}
              </td>
            ))}
          </tr>
        </tbody>
      </table>
    </figure>
  );
}
