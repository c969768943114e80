import { scaleLinear } from 'd3';
import { CONCERNS, type Concern, type Harm } from '../../core/checks/concern';
import { count, ms } from '../ui/format';
import { HarmMark } from '../ui/parts';
import { placeBars, placeDots } from './dotsLayout';

/** More pages than this are drawn as bars: dots would leave the picture. */
const MOST_DOTS = 120;
/** Pages that are named one by one. */
const NAMED = 40;

export interface ConcernRow {
  readonly concern: Concern;
  /** Causes by their worst harm. */
  readonly counts: readonly { readonly harm: Harm; readonly causes: number }[];
  /** Title of the worst cause. */
  readonly worst?: string;
  readonly dots: readonly { readonly captureId: number; readonly title: string; readonly ms: number }[];
}

/** The costliest pages in words. */
function dotsText(dots: ConcernRow['dots']): string {
  const named = [...dots].sort((a, b) => b.ms - a.ms).slice(0, NAMED);
  const more = dots.length - named.length;
  const list = (dots.length > NAMED ? named : dots).map((d) => `${d.title} ${ms(d.ms)}`).join(', ');
  return `${list || 'none'}${more > 0 ? `, and ${count(more, 'more page')}` : ''}`;
}

const nameOf = (concern: Concern) => CONCERNS.find((c) => c.id === concern)?.name ?? concern;

/** One row a concern, one dot a page, placed by what the concern costs it. */
export function ConcernDots({
  rows,
  width,
  open,
  openPage,
}: {
  rows: readonly ConcernRow[];
  width: number;
  open: (c: Concern, harm?: Harm) => void;
  openPage: (id: number) => void;
}) {
  const top = Math.max(1000, ...rows.flatMap((r) => r.dots.map((d) => d.ms)));
  const plot = Math.max(160, Math.min(360, width - 470));
  const x = scaleLinear([0, top], [10, plot - 14]);
  return (
    <>
      <table className="concerns">
        <tbody>
          {rows.map((row) => (
            <tr key={row.concern}>
              <td>
                <button className="link strong" onClick={() => open(row.concern)}>
                  {nameOf(row.concern)}
                </button>
              </td>
              <td>
                {row.counts.length === 0 && <span className="soft">nothing found</span>}
                {row.counts.map((c) => (
                  <button
                    key={c.harm}
                    className="link harm-count"
                    aria-label={`${c.harm} ${c.causes} in ${nameOf(row.concern)}`}
                    onClick={() => open(row.concern, c.harm)}
                  >
                    <HarmMark harm={c.harm} plain /> <b>{c.causes}</b>
                  </button>
                ))}
                {row.worst && <div className="soft small clip">{row.worst}</div>}
              </td>
              <td style={{ width: plot }}>
                <svg width={plot} height={30} role="group" aria-label={`Cost by page: ${dotsText(row.dots)}`}>
                  <path d={`M${x(0)} 15H${plot}`} stroke="var(--line)" />
                  {row.dots.length > MOST_DOTS &&
                    placeBars(row.dots, (d) => x(d.ms), 7).map((bar) => (
                      <rect
                        key={bar.x}
                        x={bar.x}
                        y={29 - Math.max(2, 28 * bar.share)}
                        width={bar.width - 1}
                        height={Math.max(2, 28 * bar.share)}
                        className={`dot ${row.concern === 'hero' ? 'of-hero' : ''}`}
                      >
                        <title>{`${count(bar.items.length, 'page')}: ${ms(Math.min(...bar.items.map((d) => d.ms)))} to ${ms(Math.max(...bar.items.map((d) => d.ms)))}`}</title>
                      </rect>
                    ))}
                  {placeDots(row.dots.length > MOST_DOTS ? [] : row.dots, (d) => x(d.ms), 4.2).map(
                    ({ item, x: cx, y }) => (
                      <circle
                        key={item.captureId}
                        cx={cx}
                        cy={15 + y}
                        r={4.2}
                        className={`dot ${row.concern === 'hero' ? 'of-hero' : ''}`}
                        tabIndex={0}
                        role="link"
                        aria-label={`${item.title}: ${item.ms < 40 ? 'no time' : ms(item.ms)}`}
                        onClick={() => openPage(item.captureId)}
                        onKeyDown={(e) => e.key === 'Enter' && openPage(item.captureId)}
                      >
                        <title>{`${item.title}: ${item.ms < 40 ? 'no time' : ms(item.ms)}`}</title>
                      </circle>
                    ),
                  )}
                </svg>
              </td>
            </tr>
          ))}
          <tr className="axis" aria-hidden>
            <td colSpan={2} />
            <td>
              <svg width={plot} height={16}>
                {x.ticks(4).map((t) => (
                  <text key={t} x={x(t)} y={12} textAnchor="middle">
                    {t === 0 ? '0' : ms(t)}
                  </text>
                ))}
              </svg>
            </td>
          </tr>
        </tbody>
      </table>
      <DotsTable rows={rows} />
    </>
  );
}

/** The dots as numbers: a row for each page. */
function DotsTable({ rows }: { rows: readonly ConcernRow[] }) {
  const all = new Map(rows.flatMap((r) => r.dots.map((d) => [d.captureId, d.title] as const)));
  const pages = [...all].slice(0, MOST_DOTS);
  const costs = rows.map((r) => new Map(r.dots.map((d) => [d.captureId, d.ms])));
  return (
    <details className="twin">
      <summary>As a table</summary>
      <table>
        <thead>
          <tr>
            <th>Page</th>
            {rows.map((r) => (
              <th key={r.concern}>{nameOf(r.concern)}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {pages.map(([id, title]) => (
            <tr key={id}>
              <td>{title}</td>
              {rows.map((r, i) => {
                const cost = costs[i]?.get(id);
                return <td key={r.concern}>{cost === undefined ? '–' : cost < 40 ? 'no time' : ms(cost)}</td>;
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {all.size > pages.length && (
        <p className="soft">
          The first {pages.length} of {count(all.size, 'page')}.
        </p>
      )}
    </details>
  );
}
