import { pathOf } from '../../core/capture/url';
import type { PageThenNow } from '../../core/pictures/compare';
import { ms } from '../ui/format';
import { useWidth } from '../ui/useWidth';
import { slopesLayout } from './slopesLayout';

const HEIGHT = 240;
const NAMED = 8;

/** Each page as a line from its hero paint then to that now; the biggest movers have their names. */
export function SlopesChart({ pages, then, now }: { pages: readonly PageThenNow[]; then: string; now: string }) {
  const { ref, width } = useWidth(300);
  const { slopes, labels, ticks } = slopesLayout(pages, HEIGHT, NAMED);
  if (slopes.length === 0) return null;
  const names = width > 560 ? 240 : 120;
  const left = 48;
  const right = Math.max(left + 100, width - names);
  const better = slopes.filter((s) => s.better && !s.same).length;
  const worse = slopes.filter((s) => !s.better && !s.same).length;
  return (
    <div ref={ref}>
      <svg
        width={width}
        height={HEIGHT + 22}
        role="img"
        aria-label={`Hero paint of ${slopes.length} pages, ${then} and ${now}: ${better} earlier, ${worse} later, ${slopes.length - better - worse} unchanged`}
        className="slopes"
      >
        {ticks.map((t) => (
          <g key={t.ms}>
            <line x1={left} x2={right} y1={t.y} y2={t.y} className="slope-grid" />
            <text x={left - 6} y={t.y + 4} textAnchor="end">
              {ms(t.ms)}
            </text>
          </g>
        ))}
        {slopes.map((s) => (
          <g key={s.page.page}>
            <title>{`${s.page.title}: ${ms(s.page.then?.lcpMs ?? 0)} then, ${ms(s.page.now?.lcpMs ?? 0)} now`}</title>
            <line
              x1={left}
              y1={s.y1}
              x2={right}
              y2={s.y2}
              className={`slope ${s.same ? 'same' : s.better ? 'better' : 'worse'}`}
            />
            <circle
              cx={left}
              cy={s.y1}
              r={2.5}
              className={`slope-end ${s.same ? 'same' : s.better ? 'better' : 'worse'}`}
            />
            <circle
              cx={right}
              cy={s.y2}
              r={2.5}
              className={`slope-end ${s.same ? 'same' : s.better ? 'better' : 'worse'}`}
            />
          </g>
        ))}
        {labels.map(({ slope, y }) => (
          <text key={slope.page.page} x={right + 8} y={y + 4} className={slope.better ? 'gain halo' : 'cost halo'}>
            {cut(`${pathOf(slope.page.page)} ${ms(slope.page.now?.lcpMs ?? 0)}`, Math.floor(names / 6.6))}
          </text>
        ))}
        <text x={left} y={HEIGHT + 18} className="k">
          {then}
        </text>
        <text x={right} y={HEIGHT + 18} textAnchor="end" className="k">
          {now}
        </text>
      </svg>
      <p className="soft small">
        Both sweeps are simulated for this visitor, so that a slow day of the server does not count: {better} earlier
        (solid lines), {worse} later (dashed), {slopes.length - better - worse} unchanged (thin).
      </p>
    </div>
  );
}

const cut = (text: string, most: number) => (text.length > most ? `…${text.slice(text.length - most + 1)}` : text);
