import { extent, line, max, scaleLinear, scaleUtc } from 'd3';
import type { Fate } from '../../core/site/fates';
import type { ComparedPart, ComparedPeriods } from '../../core/site/searchPeriods';
import type { ListSummary } from '../../engine/store/lists';
import { useResource } from '../state/api';
import { setQuery, useLocation } from '../state/location';
import { day } from '../ui/format';
import { ErrorBox, Loading } from '../ui/parts';
import { useWidth } from '../ui/useWidth';

interface Compared extends ComparedPeriods {
  readonly pages: readonly (ComparedPart & { readonly fate?: Fate | null })[];
  readonly pagesLeftOut: number;
}

const round = (n: number) => Math.round(n).toLocaleString('en-GB');
const HEIGHT = 130;

/** Two periods of search performance beside each other: did visits suffer, and where. */
export function PeriodsView({ siteId, lists }: { siteId: number; lists: readonly ListSummary[] }) {
  const { query } = useLocation();
  const { ref, width } = useWidth(340);
  const pages = lists.filter((l) => l.kind === 'search performance');
  const days = lists.filter((l) => l.kind === 'days');
  const before = Number(query.get('before')) || pages[1]?.id || 0;
  const after = Number(query.get('after')) || pages[0]?.id || 0;
  const [first, second] = [pages.find((l) => l.id === before), pages.find((l) => l.id === after)];
  const found = useResource<Compared>(
    first && second && first !== second
      ? `/api/sites/${siteId}/lists/compare?before=${before}&after=${after}`
      : undefined,
  );
  const course = useResource<Compared>(
    days[0] ? `/api/sites/${siteId}/lists/compare?before=${days[0].id}&after=${days[1]?.id ?? days[0].id}` : undefined,
  );
  const moved = query.get('moved') ?? '';
  if (pages.length < 2 && days.length === 0) return null;
  // A list of days compared with itself holds every day twice.
  const twice = days.length === 1 ? 2 : 1;
  return (
    <section aria-label="Two periods compared" ref={ref}>
      <h2>Did visits suffer?</h2>
      {pages.length >= 2 && (
        <p className="tools">
          <Pick label="Before" lists={pages} value={before} onChange={(id) => setQuery({ before: String(id) })} />
          <Pick label="After" lists={pages} value={after} onChange={(id) => setQuery({ after: String(id) })} />
        </p>
      )}
      {found.error && <ErrorBox error={found.error} retry={found.reload} />}
      {!found.value && found.loading && <Loading what="Comparing" />}
      {found.value && (
        <>
          <p className="serif big">{sentence(found.value.total)}</p>
          <Parts caption="By folder" parts={found.value.folders} />
          <Parts caption="Pages with most clicks lost" parts={found.value.pages.slice(0, 15)} />
          {found.value.pages.length + found.value.pagesLeftOut > 15 && (
            <p className="soft">
              {found.value.pages.length + found.value.pagesLeftOut - 15} more pages lost less or gained.
            </p>
          )}
        </>
      )}
      {course.value && course.value.days.length > 1 && (
        <>
          <p className="tools">
            <label className="soft">
              Moving day{' '}
              <input type="date" value={moved} onChange={(e) => setQuery({ moved: e.target.value || null })} />
            </label>
          </p>
          <Course
            days={course.value.days.map((d) => ({ ...d, clicks: d.clicks / twice }))}
            moved={moved}
            width={width}
          />
        </>
      )}
    </section>
  );
}

function sentence({ before, after }: ComparedPart): string {
  const change = before.clicks === 0 ? 0 : (after.clicks - before.clicks) / before.clicks;
  const how =
    Math.abs(change) < 0.03
      ? 'about the same'
      : `${Math.round(Math.abs(change) * 100)} % ${change < 0 ? 'fewer' : 'more'}`;
  return `${round(after.clicks)} clicks after ${round(before.clicks)} before: ${how}.`;
}

function Pick({
  label,
  lists,
  value,
  onChange,
}: {
  label: string;
  lists: readonly ListSummary[];
  value: number;
  onChange: (id: number) => void;
}) {
  return (
    <label className="soft">
      {label}{' '}
      <select value={value} onChange={(e) => onChange(Number(e.target.value))}>
        {lists.map((l) => (
          <option key={l.id} value={l.id}>
            {l.name}
          </option>
        ))}
      </select>
    </label>
  );
}

function Parts({ caption, parts }: { caption: string; parts: readonly (ComparedPart & { fate?: Fate | null })[] }) {
  const most = max(parts, (p) => Math.max(p.before.clicks, p.after.clicks)) ?? 1;
  const x = scaleLinear([0, most], [0, 120]);
  const fates = parts.some((p) => p.fate);
  return (
    <table className="grid periods">
      <caption>{caption}</caption>
      <thead>
        <tr>
          <th>Part</th>
          <th>Clicks before and after</th>
          <th className="right">Before</th>
          <th className="right">After</th>
          <th className="right">Position</th>
          {fates && <th>Today</th>}
        </tr>
      </thead>
      <tbody>
        {parts.map((p) => (
          <tr key={p.name}>
            <td className="mono break">{p.name}</td>
            <td>
              <svg width={122} height={14} aria-hidden>
                <rect y={1} width={x(p.before.clicks)} height={5} className="period before" />
                <rect y={8} width={x(p.after.clicks)} height={5} className="period after" />
              </svg>
            </td>
            <td className="right">{round(p.before.clicks)}</td>
            <td className={`right${p.after.clicks < p.before.clicks * 0.9 ? ' cost' : ''}`}>{round(p.after.clicks)}</td>
            <td className="right soft">
              {p.before.position?.toFixed(1) ?? ''} → {p.after.position?.toFixed(1) ?? ''}
            </td>
            {fates && <td>{p.fate ?? ''}</td>}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Course({ days, moved, width }: { days: ComparedPeriods['days']; moved: string; width: number }) {
  const at = (d: string) => new Date(`${d}T00:00:00Z`);
  const [from, to] = extent(days, (d) => at(d.day).getTime());
  const x = scaleUtc([from ?? 0, to ?? 1], [34, width - 10]);
  const y = scaleLinear([0, max(days, (d) => d.clicks) ?? 1], [HEIGHT - 18, 8]).nice();
  const path = line<(typeof days)[number]>(
    (d) => x(at(d.day)),
    (d) => y(d.clicks),
  )(days);
  const mean = (list: typeof days) => list.reduce((n, d) => n + d.clicks, 0) / Math.max(1, list.length);
  const [before, after] = [days.filter((d) => d.day < moved), days.filter((d) => d.day >= moved)];
  return (
    <figure className="chart">
      <svg
        width={width}
        height={HEIGHT}
        role="img"
        aria-label={`Clicks by day from ${days[0]?.day ?? ''} to ${days.at(-1)?.day ?? ''}${moved ? `; ${round(mean(before))} a day before moving day, ${round(mean(after))} from then on` : ''}`}
      >
        {y.ticks(4).map((t) => (
          <g key={t}>
            <path d={`M34 ${y(t)}H${width - 10}`} stroke="var(--grid)" />
            <text x={28} y={y(t) + 4} textAnchor="end" className="axis-text">
              {t}
            </text>
          </g>
        ))}
        {x.ticks(6).map((t) => (
          <text key={t.getTime()} x={x(t)} y={HEIGHT - 4} textAnchor="middle" className="axis-text">
            {day(t.toISOString()).replace(/ \d{4}$/, '')}
          </text>
        ))}
        <path d={path ?? ''} className="course" />
        {moved && before.length > 0 && after.length > 0 && (
          <>
            <path d={`M${x(at(moved))} 4V${HEIGHT - 18}`} className="moving-day" />
            <text x={x(at(moved)) + 4} y={14} className="axis-text">
              moving day: {round(mean(before))} clicks a day before, {round(mean(after))} from then on
            </text>
          </>
        )}
      </svg>
    </figure>
  );
}
