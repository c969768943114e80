import { COVERAGE, coverageName, type CoverageState } from '../../core/site/coverage';
import type { Coverage, CoveredAddress } from '../../engine/store/coverage';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { setQuery, useLocation } from '../state/location';
import { count } from '../ui/format';
import { ErrorBox, Loading, Term } from '../ui/parts';
import { Paging } from '../ui/Paging';
import { SetTo } from '../ui/SetTo';
import { To } from '../ui/To';
import { coverageLayout, mainGroups } from './coverageLayout';

const HEIGHT = 150;
const PAGE = 50;

/** Path of the states of a sweep's addresses. */
export const coveragePath = (sweepId: number, query: URLSearchParams): string =>
  `/api/sweeps/${sweepId}/coverage?by=${query.get('by') === 'template' ? 'template' : 'folder'}`;

/** Path of the addresses in the state that the address asks for; undefined when it asks for none. */
export function coveredPath(sweepId: number, query: URLSearchParams): string | undefined {
  const state = query.get('covered');
  if (!state) return undefined;
  const key = query.get('part');
  const from = Math.max(0, Number(query.get('from')) || 0);
  return `${coveragePath(sweepId, query)}&list=addresses&state=${encodeURIComponent(state)}${key === null ? '' : `&key=${encodeURIComponent(key)}`}&offset=${from}&limit=${PAGE}`;
}

/** The state of every known address, as areas by folder or template; each opens its list. */
export function CoverageAreas({ sweepId, width }: { sweepId: number; width: number }) {
  const { query } = useLocation();
  const { base } = useBench();
  const found = useResource<Coverage>(coveragePath(sweepId, query));
  const listed = useResource<{ total: number; rows: CoveredAddress[] }>(coveredPath(sweepId, query));
  if (found.error) return <ErrorBox error={found.error} retry={found.reload} />;
  if (!found.value) return <Loading what="Counting addresses" />;
  const { total, counts } = found.value;
  if (total === 0) return <p className="soft">This sweep holds recordings only: no address was visited by a crawl.</p>;
  const groups = mainGroups(found.value.groups);
  const state = query.get('covered') as CoverageState | null;
  const part = query.get('part');
  const by = query.get('by') === 'template' ? 'template' : 'folder';
  const areas = coverageLayout(groups, width, HEIGHT);
  const from = Math.max(0, Number(query.get('from')) || 0);
  return (
    <section aria-label="States of addresses">
      <h2>
        {count(total, 'known address', 'known addresses')}, each in one state{' '}
        <span className="normal">
          by{' '}
          {(['folder', 'template'] as const).map((b) => (
            <SetTo
              key={b}
              role="button"
              className={b === by ? 'strong' : 'link'}
              aria-pressed={b === by}
              changes={{ by: b === 'folder' ? null : b, part: null }}
            >
              {b}{' '}
            </SetTo>
          ))}
        </span>
      </h2>
      <ul className="coverage-legend">
        {COVERAGE.map((c) => (
          <li key={c.id}>
            <SetTo
              role="button"
              className={c.id === state && part === null ? 'strong' : 'link'}
              aria-pressed={c.id === state && part === null}
              changes={{ covered: c.id === state && part === null ? null : c.id, part: null, from: null }}
            >
              <svg width={12} height={12} aria-hidden>
                <rect width={12} height={12} className={`coverage ${c.id}`} />
              </svg>{' '}
              {counts[c.id].toLocaleString('en-GB')} <Term means={c.means}>{c.name}</Term>
            </SetTo>
          </li>
        ))}
      </ul>
      <figure className="chart">
        <svg
          width={width}
          height={HEIGHT + 18}
          role="group"
          aria-label={`States of addresses by ${by}: ${COVERAGE.map((c) => `${counts[c.id]} ${c.name}`).join(', ')}`}
        >
          {areas.map((a) => (
            <rect
              key={a.group + a.state}
              x={a.x}
              y={a.y}
              width={a.width}
              height={Math.max(1, a.height)}
              className={`coverage ${a.state}${state === a.state && (part === null || part === a.group) ? ' on' : ''}`}
              onClick={() => setQuery({ covered: a.state, part: a.group === '' ? null : a.group, from: null })}
            >
              <title>{`${groups.find((g) => g.key === a.group)?.name ?? ''}: ${a.count} ${coverageName(a.state)}`}</title>
            </rect>
          ))}
          {groups.map((g) => {
            const own = areas.find((a) => a.group === g.key);
            if (!own) return null;
            const room = Math.floor(own.width / 6.6);
            return (
              <text key={g.key} x={own.x + 1} y={HEIGHT + 13} className="axis-text">
                {g.name.length > room ? `${g.name.slice(0, Math.max(1, room - 1))}…` : g.name}
                <title>{g.name}</title>
              </text>
            );
          })}
        </svg>
      </figure>
      {state && (
        <div className="coverage-list">
          <p>
            <b>{coverageName(state)}</b>
            {part !== null && ` in ${found.value.groups.find((g) => g.key === part)?.name ?? part}`}:{' '}
            {COVERAGE.find((c) => c.id === state)?.means}{' '}
            <a
              className="export"
              href={`${coveragePath(sweepId, query)}&format=csv&state=${state}${part === null ? '' : `&key=${encodeURIComponent(part)}`}`}
            >
              CSV
            </a>{' '}
            <SetTo role="button" className="link" changes={{ covered: null, part: null, from: null }}>
              Close
            </SetTo>
          </p>
          {listed.error && <ErrorBox error={listed.error} retry={listed.reload} />}
          {!listed.value && listed.loading && <Loading what="Reading addresses" />}
          {listed.value && listed.value.rows.length === 0 && <p className="soft">No address is in this state.</p>}
          <ul className="mono small">
            {listed.value?.rows.map((r) => (
              <li key={r.pageId}>
                <To className="link" to={`${base}/facts/${r.pageId}`}>
                  {r.url}
                </To>{' '}
                <span className="soft">
                  {r.status ?? ''}
                  {r.to ? ` → ${r.to}` : ''}
                </span>
              </li>
            ))}
          </ul>
          {listed.value && <Paging from={from} page={PAGE} total={listed.value.total} />}
        </div>
      )}
    </section>
  );
}
