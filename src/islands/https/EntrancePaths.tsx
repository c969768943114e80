import type { Entrance } from '../../core/site/entrances';
import { entrancePathsLayout } from './entrancePathsLayout';

/** Entrances as paths, request by request, to where it ends. */
export function EntrancePaths({ entrances, width }: { entrances: readonly Entrance[]; width: number }) {
  const { paths, ends, height, labelWidth, endX } = entrancePathsLayout(entrances, Math.max(620, width));
  const bad = paths.filter((p) => !p.good).length;
  return (
    <figure className="chart entrance-paths" tabIndex={0}>
      <svg
        width={Math.max(620, width)}
        height={height}
        role="img"
        aria-label={`${paths.length} entrances, ${bad} of them with faults. ${ends.map((e) => `${e.ways} end at ${e.url}`).join(', ')}. The table below says the same.`}
      >
        {paths.map((p) => {
          const { from, family, verdict, says } = p.entrance;
          const [scheme, rest] = from.split('://');
          return (
            <g key={from + family} className={p.good ? 'entry good' : 'entry bad'}>
              <title>{`${from} (${family}): ${verdict}. ${says}`}</title>
              <rect x={0} y={p.y - 11} width={labelWidth} height={22} className="entry-hit" />
              <text x={0} y={p.y + 4} className="entry-name">
                <tspan className="entry-scheme">{scheme}://</tspan>
                {(rest ?? '').replace(/\/$/, '')}
                {family === 'IPv6' ? ' (IPv6)' : ''}
              </text>
              <path d={p.d} className={p.entrance.verdict === 'temporary' ? 'entry-line temporary' : 'entry-line'} />
              {p.points.map((point, i) => (
                <g key={i}>
                  <circle cx={point.x} cy={point.y} r={2.6} className="entry-point" />
                  {p.entrance.hops[i]?.location && i < 3 && (
                    <text x={point.x + 5} y={point.y - 3} className="entry-status">
                      {point.label}
                    </text>
                  )}
                </g>
              ))}
              {p.end.dead && (
                <g>
                  <path d={`M${p.end.x - 3} ${p.end.y - 3}l6 6m0 -6l-6 6`} className="entry-stop" />
                  <text x={p.end.x + 7} y={p.end.y + 4} className="entry-status stop">
                    {p.end.label}
                  </text>
                </g>
              )}
            </g>
          );
        })}
        {ends.map((e) => (
          <g key={e.url}>
            <circle
              cx={endX}
              cy={e.y}
              r={e.ways > 1 ? 5 : 3.5}
              className={e.good ? 'entry-end good' : 'entry-end bad'}
            />
            <text x={endX + 9} y={e.y + 4} className="entry-name">
              {shortEnd(e.url)}
              <title>{`${e.ways} ${e.ways === 1 ? 'entrance ends' : 'entrances end'} at ${e.url}`}</title>
            </text>
          </g>
        ))}
      </svg>
    </figure>
  );
}

/** An end as it is read at a glance: the host, the scheme where it is not secure, the path where there is one. */
function shortEnd(url: string): string {
  const short = url.replace(/^https:\/\//, '').replace(/\/$/, '');
  return short.length > 29 ? `${short.slice(0, 28)}…` : short;
}
