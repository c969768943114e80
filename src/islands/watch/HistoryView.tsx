import { CONCERNS } from '../../core/checks/concern';
import { HISTORY_FIGURES, type History } from '../../core/watch/history';
import { figureName, watchedText } from '../../core/watch/limits';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { setQuery, useLocation } from '../state/location';
import { count, day } from '../ui/format';
import { Fold } from '../ui/Fields';
import { ErrorBox, Loading } from '../ui/parts';
import { To } from '../ui/To';
import { useWidth } from '../ui/useWidth';
import { historyLayout } from './historyLayout';
import { pageScopes } from './pageScopes';
import { historyPath } from './watchPath';

const HEIGHT = 280;

/** Any figure over all sweeps, with what happened meanwhile. */
export default function HistoryView() {
  const { siteId, visitor, pages } = useBench();
  const { query } = useLocation();
  const path = historyPath(siteId, visitor.id, query);
  const history = useResource<History>(path);
  const figure = query.get('figure') ?? 'lcpMs';
  const value = history.value;
  return (
    <>
      <div className="tools">
        <select aria-label="Figure" value={figure} onChange={(e) => setQuery({ figure: e.target.value })}>
          {HISTORY_FIGURES.map((f) => (
            <option key={f} value={f}>
              {figureName(f)}
            </option>
          ))}
        </select>
        <select
          aria-label="Pages"
          value={query.get('pages') ?? ''}
          onChange={(e) => setQuery({ pages: e.target.value || null })}
        >
          {pageScopes(pages, query.get('pages') ?? '').map((s) => (
            <option key={s.value} value={s.value}>
              {s.name}
            </option>
          ))}
        </select>
        {figure === 'findings' && (
          <>
            <select
              aria-label="Concern"
              value={query.get('concern') ?? ''}
              onChange={(e) => setQuery({ concern: e.target.value || null })}
            >
              <option value="">all concerns</option>
              {CONCERNS.map((c) => (
                <option key={c.id} value={c.id}>
                  {c.name}
                </option>
              ))}
            </select>
            <select
              aria-label="Harm"
              value={query.get('harm') ?? ''}
              onChange={(e) => setQuery({ harm: e.target.value || null })}
            >
              <option value="">any harm</option>
              {['broken', 'exposed', 'slow', 'tidy'].map((h) => (
                <option key={h}>{h}</option>
              ))}
            </select>
          </>
        )}
        <a className="export" href={`${path}&format=csv`} download>
          CSV
        </a>
      </div>
      {history.error && <ErrorBox error={history.error} retry={history.reload} />}
      {!value && history.loading && <Loading what="Working out the figure of each sweep" />}
      {value && value.points.length === 0 && (
        <p className="soft">No sweep has recorded these pages. A history needs recordings.</p>
      )}
      {value && value.points.length > 0 && <HistoryChart history={value} stale={history.stale} />}
    </>
  );
}

function commonText(common: number | undefined): string {
  if (common === undefined) return '';
  return common === 0
    ? 'The sweeps recorded different pages: each point is of its own, and part of the change is that of the choice. '
    : `The sweeps recorded different pages: the line is of the ${count(common, 'page')} that all have in common. `;
}

function HistoryChart({ history, stale }: { history: History; stale: boolean }) {
  const { ref, width } = useWidth(300);
  const { points, events, figure } = history;
  const drawing = historyLayout(points, events, width, HEIGHT);
  const text = (n: number) => watchedText(figure, n);
  const [first, last] = [points[0], points.at(-1)];
  if (!first || !last) return null;
  const says =
    points.length === 1
      ? `${figureName(figure)} in the one sweep of ${day(first.day)}: ${text(first.value)}.`
      : `${figureName(figure)} from ${text(first.value)} on ${day(first.day)} to ${text(last.value)} on ${day(last.day)}, in ${count(points.length, 'sweep')}.`;
  return (
    <div ref={ref} aria-busy={stale}>
      <p className="serif-text">{says}</p>
      <svg width={width} height={HEIGHT} role="img" aria-label={says} className="history">
        {drawing.yTicks.map((t) => (
          <g key={t.value}>
            <line x1={62} x2={width - 14} y1={t.y} y2={t.y} className="history-grid" />
            <text x={56} y={t.y + 4} textAnchor="end">
              {text(t.value)}
            </text>
          </g>
        ))}
        {drawing.xTicks.map((t) => (
          <text key={t.x} x={t.x} y={HEIGHT - 26} textAnchor={t.x > width - 60 ? 'end' : 'middle'} className="k">
            {t.label}
          </text>
        ))}
        {drawing.band && <path d={drawing.band} className="history-band" />}
        <path d={drawing.line} className="history-line" />
        {drawing.points.map((p) => (
          <circle key={p.sweepId} cx={p.x} cy={p.y} r={3.5} className="history-point">
            <title>{`${day(p.day)}: ${text(p.value)}${p.range ? ` (${text(p.range[0])} to ${text(p.range[1])})` : ''}`}</title>
          </circle>
        ))}
        {drawing.marks.map((m) => (
          <g key={m.day}>
            <line x1={m.x} x2={m.x} y1={12} y2={HEIGHT - 44} className="history-event" />
            <text x={m.x} y={HEIGHT - 8} textAnchor="middle" className="history-number">
              {m.numbers.length > 2 ? `${m.numbers[0]}-${m.numbers.at(-1)}` : m.numbers.join(', ')}
            </text>
          </g>
        ))}
      </svg>
      <p className="soft small">
        {commonText(history.common)}
        {drawing.band && 'The band is where nine of ten loads lie. '}
        Each sweep is simulated for this visitor, so that a slow day of the network does not count. Times are the middle
        of 24 simulated loads; the bench shows one of them.
      </p>
      {events.length > 0 && (
        <ol className="history-events">
          {events.map((e, i) => (
            <li key={i}>
              <span className="soft">{day(e.day)}</span> <To to={e.path}>{e.text}</To>
            </li>
          ))}
        </ol>
      )}
      <Fold title="As a table">
        <table className="plain">
          <thead>
            <tr>
              <th>Sweep</th>
              <th className="right">{figureName(figure)}</th>
              <th className="right">Range</th>
              <th className="right">Pages</th>
            </tr>
          </thead>
          <tbody>
            {[...points].reverse().map((p) => (
              <tr key={p.sweepId}>
                <td>{day(p.day)}</td>
                <td className="right">{text(p.value)}</td>
                <td className="right">{p.range ? `${text(p.range[0])} to ${text(p.range[1])}` : ''}</td>
                <td className="right">{p.pages}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Fold>
    </div>
  );
}
