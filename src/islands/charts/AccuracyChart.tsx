import { useState } from 'react';
import type { AccuracyPoint } from '../../core/plan/accuracy';
import { effectText, ms } from '../ui/format';
import { accuracyLayout } from './accuracyLayout';

const SIZE = 420;
/** Rows of the table that stand there before it is opened; there are hundreds. */
const FIRST_ROWS = 60;

/** Marks in the SVG's own units, around their middle. */
const at = (x: number, y: number) => `${x.toFixed(1)} ${y.toFixed(1)}`;
const disc = (x: number, y: number) => `M${at(x - 3, y)}a3 3 0 1 0 6 0a3 3 0 1 0 -6 0z`;
const diamond = (x: number, y: number) => `M${at(x - 4, y)}l4 -4l4 4l-4 4z`;

/** Forecast against measured changes: on the line the forecast was right. */
export function AccuracyChart({ points }: { points: readonly AccuracyPoint[] }) {
  const [isOpen, setOpen] = useState(false);
  const { dots, ticks, lines } = accuracyLayout(points, SIZE);
  const near = points.filter((p) => Math.abs(p.forecast - p.measured) <= 0.1 * p.base).length;
  const share = (n: number) => `${Math.round(n * 100)} %`;
  return (
    <figure className="accuracy-chart">
      <svg
        viewBox={`0 0 ${SIZE} ${SIZE}`}
        role="img"
        aria-label={`Forecast against measured change of hero paint for ${points.length} edited pages: ${near} of them within 10 % of the base.`}
      >
        {lines.map((l) => (
          <line
            key={l.off}
            x1={l.x1}
            y1={l.y1}
            x2={l.x2}
            y2={l.y2}
            className={l.off === 0 ? 'right-line' : 'right-line beside'}
          />
        ))}
        {ticks.map((t) => (
          <g key={t.share} className="axis-text">
            <text x={t.x} y={SIZE - 20} textAnchor="middle">
              {share(t.share)}
            </text>
            <text x={32} y={t.y + 4} textAnchor="end">
              {share(t.share)}
            </text>
          </g>
        ))}
        {dots.map((d) => (
          // One element each, since there are hundreds.
          <path
            key={`${d.point.page} ${d.point.link} ${d.point.variant}`}
            d={d.point.held ? diamond(d.x, d.y) : disc(d.x, d.y)}
            className={d.point.held ? 'dot held' : 'dot'}
          >
            <title>{`${d.point.page}, ${d.point.variant}, ${d.point.link}: measured ${ms(d.point.measured)}, forecast ${ms(d.point.forecast)} of ${ms(d.point.base)}`}</title>
          </path>
        ))}
        <text x={SIZE / 2} y={SIZE - 4} textAnchor="middle" className="axis-text">
          measured change of hero paint, of the base
        </text>
      </svg>
      <figcaption className="soft small">
        Each mark is one edited page on one link. On the line the forecast was right; the dotted lines are 10 % away.
        Diamonds: pages held back, to which no constant was fitted.
      </figcaption>
      <details className="twin" onToggle={(e) => setOpen(e.currentTarget.open)}>
        <summary>As a table</summary>
        <div className="scroll tall">
          <table>
            <thead>
              <tr>
                <th>Page</th>
                <th>Variant</th>
                <th>Link</th>
                <th>Base</th>
                <th>Measured</th>
                <th>Forecast</th>
              </tr>
            </thead>
            <tbody>
              {(isOpen ? points : points.slice(0, FIRST_ROWS)).map((p) => (
                <tr key={`${p.page} ${p.link} ${p.variant}`}>
                  <td>{p.page}</td>
                  <td>{p.variant}</td>
                  <td>{p.link}</td>
                  <td>{ms(p.base)}</td>
                  <td>{effectText(p.measured)}</td>
                  <td>{effectText(p.forecast)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </details>
    </figure>
  );
}
