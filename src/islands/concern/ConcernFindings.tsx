import { useEffect, useMemo, useRef, useState } from 'react';
import type { Concern } from '../../core/checks/concern';
import { groupKey } from '../../core/plan/groupKey';
import type { CausePlace } from '../../engine/store/causes';
import type { MuteRow } from '../../engine/store/mutes';
import { MutedNotice, unmute } from '../findings/MuteForm';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { useChecks } from '../state/checks';
import { useJobs } from '../state/jobs';
import { go, setQuery, useLocation } from '../state/location';
import { savedSeconds } from '../../core/plan/worth';
import { count } from '../ui/format';
import { ErrorBox, Loading } from '../ui/parts';
import { FilterForm } from '../ui/FilterForm';
import { SearchBox } from '../ui/SearchBox';
import { SetTo } from '../ui/SetTo';
import { moveRow, useKeys } from '../ui/useKeys';
import { CauseFilters } from './CauseFilters';
import { CauseItem } from './CauseItem';
import type { CauseSort } from '../../engine/services/ratedCauses';
import { causesFilter, causesPath, FILTERS, SORTS, withFixes, type CausesAnswer } from './causes';
import { To } from '../ui/To';

/** All findings of a concern, grouped by the change that removes them. */
export function ConcernFindings({ concern }: { concern: Concern }) {
  const bench = useBench();
  const { query } = useLocation();
  const search = useRef<HTMLInputElement>(null);
  const [row, setRow] = useState(0);
  const [open, setOpen] = useState<string>();
  const [muting, setMuting] = useState<string>();
  const [muted, setMuted] = useState<MuteRow>();
  const checks = useChecks();
  const { jobs } = useJobs();
  const examined = jobs?.filter((j) => j.kind === 'examine' && j.state === 'done').length.toString();
  const siteId = bench.siteId;
  const device = bench.data.value?.device ?? 'phone';
  const fix = query.get('fix');
  const onlyFix = bench.groups.find((g) => groupKey(g.id) === fix);
  const about = { device, visitor: bench.visitor.id };
  const found = useResource<CausesAnswer>(causesPath(bench.sweepId ?? 0, about, concern, query), examined);
  const sort: CauseSort = query.get('sort') === 'pages' ? 'pages' : 'impact';
  const causes = useMemo(
    () => withFixes(found.value?.causes ?? [], [...(found.value?.fixes ?? []), ...bench.groups]),
    [found.value, bench.groups],
  );
  // The forecast after a mute is often the same one, but it has been made since: now the causes can be rated.
  const unrated = found.value?.rated === false && !found.stale;
  const { forecastReadAt } = bench;
  const { reload } = found;
  useEffect(() => {
    if (unrated && forecastReadAt !== undefined) reload();
  }, [unrated, forecastReadAt, reload]);
  const most = Math.max(0, ...causes.map((c) => savedSeconds(c.row.worth)));
  const openPlace = (p: CausePlace) =>
    go(
      `/sites/${siteId}/pages/${p.captureId}?${p.source?.url === p.page ? `tab=source&line=${p.source.line}` : `tab=findings&finding=${p.id}`}`,
    );
  const changed = () => {
    found.reload();
    bench.data.reload();
  };
  const mutes = useResource<readonly MuteRow[]>(query.get('muted') ? `/api/sites/${siteId}/mutes` : undefined);
  const current = causes[Math.min(row, causes.length - 1)];
  useKeys({
    j: () => setRow((r) => moveRow(r, 1, causes.length)),
    k: () => setRow((r) => moveRow(r, -1, causes.length)),
    '/': () => search.current?.focus(),
    Enter: () => current?.row.places[0] && openPlace(current.row.places[0]),
    e: () => current && setOpen((o) => (o === current.row.cause ? undefined : current.row.cause)),
    b: () => current?.groups[0] && bench.toggle(current.groups[0].id),
  });
  const narrowed = fix !== null || FILTERS.some((f) => query.get(f));
  const exports = `/api/sweeps/${bench.sweepId ?? 0}/findings?${causesFilter(device, concern, query)}&visitor=${encodeURIComponent(bench.visitor.id)}`;
  return (
    <>
      <FilterForm fields={['search', 'sort']}>
        <SearchBox
          what="findings"
          name="search"
          box={search}
          value={query.get('search') ?? ''}
          onChange={(w) => setQuery({ search: w || null })}
        />
        <label className="soft">
          Sort by{' '}
          <select
            name="sort"
            value={sort}
            onChange={(e) => setQuery({ sort: e.target.value === 'impact' ? null : e.target.value })}
          >
            {Object.entries(SORTS).map(([id, name]) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <span className="right">
          Export what is shown{' '}
          {(['csv', 'xlsx', 'sarif', 'json-file'] as const).map((format) => (
            <a key={format} href={`${exports}&format=${format}`} className="export">
              {format === 'json-file' ? 'JSON' : format.toUpperCase()}
            </a>
          ))}
        </span>
      </FilterForm>
      {(onlyFix ?? query.get('cause')) && (
        <p className="notice">
          {onlyFix ? `Only what “${onlyFix.title}” removes.` : 'Only one cause.'}{' '}
          <SetTo role="button" className="link" changes={{ fix: null, cause: null }}>
            Clear filters
          </SetTo>
        </p>
      )}
      {bench.data.value?.clicksOf && <p className="soft small">Visits are clicks by {bench.data.value.clicksOf}.</p>}
      {found.value && <CauseFilters answer={found.value} />}
      <MutedNotice
        mute={muted}
        onUndo={(m) => void unmute(siteId, m.id).then(() => (setMuted(undefined), changed()))}
      />
      {found.error && <ErrorBox error={found.error} retry={found.reload} />}
      {!found.value && found.loading && <Loading what="Reading findings" />}
      {found.value && causes.length === 0 && (
        <p className="soft">
          {narrowed
            ? 'No finding matches these filters.'
            : 'No check of this concern found a fault in the captured pages.'}{' '}
          <To className="link" to={`/sites/${siteId}/checks`}>
            See the {count(checks.filter((c) => c.concern === concern).length, 'check')}.
          </To>
        </p>
      )}
      <ul className="findings" aria-busy={found.stale}>
        {causes.map((c, i) => (
          <CauseItem
            key={c.row.cause}
            cause={c}
            index={i}
            at={i === row}
            most={most}
            open={open === c.row.cause}
            mute={c.row.muted ? mutes.value?.find((m) => isAbout(m, c.row)) : undefined}
            onUnmute={(m) => void unmute(siteId, m.id).then(changed)}
            muting={muting === c.row.cause}
            onPick={() => setRow(i)}
            onOpen={() => setOpen((o) => (o === c.row.cause ? undefined : c.row.cause))}
            onMute={() => setMuting(c.row.cause)}
            onMuted={(mute) => {
              setMuting(undefined);
              if (!mute) return;
              setMuted(mute);
              changed();
            }}
            openPlace={openPlace}
          />
        ))}
      </ul>
      {found.value && <MoreCauses answer={found.value} all={query.get('all') === 'causes'} />}
    </>
  );
}

/** What a list leaves out, and how to see it. */
function MoreCauses({ answer, all }: { answer: CausesAnswer; all: boolean }) {
  const { total, listed, causes } = answer;
  if (total <= causes.length && !all) return null;
  return (
    <p className="soft">
      {(listed > causes.length || all) && (
        <SetTo role="button" className="link" aria-pressed={all} changes={{ all: all ? null : 'causes' }}>
          {all ? 'Show fewer' : `Show ${listed < total ? `the first ${listed}` : `all ${total}`}`}
        </SetTo>
      )}{' '}
      {listed < total && `${count(total, 'cause')} in all: narrow the list, or export it to see every one.`}
    </p>
  );
}

/** True for a mute that keeps a cause out of the lists. */
function isAbout(m: MuteRow, row: CausesAnswer['causes'][number]): boolean {
  if (m.scope === 'check') return m.value === row.check;
  return m.scope === 'cause' ? m.value === row.cause : row.places.some((p) => p.id === m.value);
}
