import type { FieldRow } from '../../core/field/fieldData';
import { fieldSentence, fieldValue } from '../../core/field/words';
import { useEffect, useMemo, useRef, useState } from 'react';
import {
  inGroup,
  PAGE_GROUPS,
  readPageFilter,
  writePageFilter,
  type FILTER_LISTS,
  type PageFilter,
} from '../../core/site/pageFilter';
import type { PageRow } from '../../engine/store/pageList';
import type { PageSummary } from '../../engine/store/pageSummary';
import { useResource } from '../state/api';
import { useBench, useBenchAnswer } from '../state/bench';
import { go, setQuery, useLocation } from '../state/location';
import { ms } from '../ui/format';
import { DropMenu } from '../ui/DropMenu';
import { ErrorBox, Loading } from '../ui/parts';
import { FilterForm } from '../ui/FilterForm';
import { SearchBox } from '../ui/SearchBox';
import { useKeys } from '../ui/useKeys';
import { COLUMNS, DEFAULT_COLUMNS, type Column } from './columns';
import { FilterBar, Total } from './FilterBar';
import { groupingName, Groups } from './Groups';
import { PageTable } from './PageTable';
import { pagesPaths } from './pagesPaths';
import { usePageWindows } from './usePageWindows';

/** Every address of a sweep with its facts: filtered, grouped, sorted, exported. */
export function AllPages({ sweepId, all }: { sweepId: number; all: number }) {
  const { query } = useLocation();
  const bench = useBench();
  const search = useRef<HTMLInputElement>(null);
  const [at, setAt] = useState(0);
  const filter = useMemo(() => readPageFilter((name) => query.get(name)), [query]);
  const columns = useColumns(query.get('columns'));
  const sort = query.get('sort') ?? 'linksIn';
  const descending = query.get('descending') !== 'false';
  const group = PAGE_GROUPS.find((g) => g === query.get('group'));
  const { list, summaryOf } = pagesPaths(sweepId, query);
  const windows = usePageWindows(list);
  const summary = useResource<PageSummary>(summaryOf);
  const groups =
    group === 'folder'
      ? summary.value?.folders
      : group === 'template'
        ? summary.value?.templates
        : summary.stale
          ? undefined
          : summary.value?.grouped;
  const setFilter = (next: PageFilter) => (setAt(0), setQuery(writePageFilter(next)));
  const toggled = (name: (typeof FILTER_LISTS)[number], value: string) => {
    const before: readonly string[] = filter[name] ?? [];
    const after = before.includes(value) ? before.filter((v) => v !== value) : [...before, value];
    return writePageFilter({ ...filter, [name]: after });
  };
  const toggle = (...change: Parameters<typeof toggled>) => (setAt(0), setQuery(toggled(...change)));
  const open = (row: PageRow) => go(`${bench.base}/facts/${row.id}`);
  const total = windows.total ?? 0;
  useKeys({
    j: () => setAt((r) => Math.min(total - 1, r + 1)),
    k: () => setAt((r) => Math.max(0, r - 1)),
    Enter: () => {
      const row = windows.row(at);
      if (row) open(row);
    },
    '/': () => search.current?.focus(),
  });
  const answer = useBenchAnswer();
  const heroes = useMemo(() => new Map(answer?.pages.map((p) => [p.captureId, p.nowMs])), [answer]);
  const fields = useMemo(
    () => new Map(bench.data.value?.pages.flatMap(({ row, field }) => (field ? [[row.id, field] as const] : []))),
    [bench.data.value],
  );
  const templates = useMemo(() => new Map(summary.value?.templates.map((t) => [t.value, t.name])), [summary.value]);
  const extra = (row: PageRow) => ({
    template: row.template === null ? undefined : templates.get(row.template),
    hero: heroCell(windows.captures(row), heroes, fields),
  });
  const exported = `${list}&columns=${columns.map((c) => (c.key === 'page' ? 'url,title' : c.key)).join(',')}`;
  if (windows.error) return <ErrorBox error={windows.error} retry={windows.reload} />;
  return (
    <>
      {summary.error && <ErrorBox error={summary.error} retry={summary.reload} />}
      {summary.value ? (
        <FilterBar
          filter={filter}
          summary={summary.value}
          onToggle={toggle}
          toggled={toggled}
          cleared={writePageFilter({})}
        />
      ) : (
        <div className="spreads-wait" />
      )}
      <FilterForm fields={['words', 'group']}>
        <SearchBox
          what="pages"
          name="words"
          box={search}
          value={query.get('words') ?? ''}
          onChange={(words) => setFilter({ ...filter, words })}
        />
        <label className="soft">
          Group by{' '}
          <select name="group" value={group ?? ''} onChange={(e) => setQuery({ group: e.target.value || null })}>
            <option value="">nothing</option>
            {PAGE_GROUPS.map((by) => (
              <option key={by} value={by}>
                {groupingName(by).toLowerCase()}
              </option>
            ))}
          </select>
        </label>
        {windows.total !== undefined && <Total total={windows.total} all={all} />}
        <span className="right" />
        <ColumnMenu chosen={columns} />
        <a className="link" href={`${exported}&format=csv`} download>
          Export CSV
        </a>
        <a className="link" href={`${exported}&format=xlsx`} download>
          XLSX
        </a>
      </FilterForm>
      {group ? (
        groups ? (
          <Groups
            by={group}
            groups={groups}
            onOpen={(value) => {
              setQuery({ group: null });
              setFilter(inGroup(filter, group, value));
            }}
          />
        ) : (
          <Loading what="Grouping" />
        )
      ) : windows.total === undefined ? (
        <Loading what="Reading pages" />
      ) : windows.total === 0 ? (
        <p className="soft">
          No match.{' '}
          <button className="link" onClick={() => setFilter({})}>
            Clear filters
          </button>
        </p>
      ) : (
        <PageTable
          windows={windows}
          columns={columns}
          sort={sort}
          descending={descending}
          at={at}
          onSort={(key, down) => (setAt(0), setQuery({ sort: key, descending: String(down) }))}
          onOpen={open}
          extra={extra}
        />
      )}
    </>
  );
}

/** Pages of a template must be this alike before one speaks for another. */
const ALIKE = 0.8;

/** The hero's paint, of its own recording with that of real visits; else of its template's, and then marked as such. */
function heroCell(
  captures: { ids: readonly number[]; own: boolean; alike: number },
  heroes: ReadonlyMap<number, number>,
  fields: ReadonlyMap<number, FieldRow>,
) {
  const known = captures.ids.flatMap((id) => heroes.get(id) ?? []);
  if (known.length === 0) return <span className="soft">–</span>;
  const alike = `${Math.round(captures.alike * 100)} % of the pages of this template have about the HTML size of those recorded`;
  if (!captures.own && captures.alike < ALIKE)
    return (
      <span className="soft" title={`Not recorded, and only ${alike}: no estimate.`}>
        –
      </span>
    );
  const average = known.reduce((a, b) => a + b, 0) / known.length;
  const field = captures.own ? captures.ids.flatMap((id) => fields.get(id) ?? [])[0] : undefined;
  return captures.own ? (
    <>
      <span className="cost">{ms(average)}</span>
      {field?.p75.lcpMs !== undefined && (
        <span className="cut soft small" title={fieldSentence(field, ['lcpMs'])}>
          visits {fieldValue('lcpMs', field.p75.lcpMs)}
        </span>
      )}
    </>
  ) : (
    <span className="soft" title={`Not recorded: taken from a recorded page of its template. ${alike}.`}>
      ≈ {ms(average)}
    </span>
  );
}

const KEPT = 'page-columns';

/** The columns that the address names, or those that this browser has kept: known once the screen has been drawn. */
function useColumns(named: string | null): readonly Column[] {
  const [kept, setKept] = useState<string | null>(null);
  useEffect(() => setKept(localStorage.getItem(KEPT)), []);
  return useMemo(() => {
    const wanted: readonly string[] = (named ?? kept)?.split(',') ?? DEFAULT_COLUMNS;
    return COLUMNS.filter((c) => c.key === 'page' || wanted.includes(c.key));
  }, [named, kept]);
}

function ColumnMenu({ chosen }: { chosen: readonly Column[] }) {
  const set = (keys: readonly string[]) => {
    localStorage.setItem(KEPT, keys.join(','));
    setQuery({ columns: keys.join(',') });
  };
  const keys = chosen.map((c) => c.key as string);
  return (
    <DropMenu
      stays
      position="bottom-end"
      listClass="column-menu"
      button={{ className: 'link', children: 'Columns' }}
      entries={[
        ...COLUMNS.slice(1).map((c) => ({
          key: c.key,
          label: `${c.name}, ${keys.includes(c.key) ? 'shown' : 'hidden'}`,
          onPick: () => set(keys.includes(c.key) ? keys.filter((k) => k !== c.key) : [...keys, c.key]),
          content: (
            <>
              <span className="check">{keys.includes(c.key) ? '✓' : ''}</span> {c.name}
            </>
          ),
        })),
        { key: 'rule', rule: true },
        { key: 'reset', content: 'Reset', onPick: () => set(DEFAULT_COLUMNS) },
      ]}
    />
  );
}
