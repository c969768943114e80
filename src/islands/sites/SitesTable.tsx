import { lazy, Suspense, useState } from 'react';
import { ask, shownError, type ShownError } from '../state/api';
import { go, setQuery, useLocation } from '../state/location';
import type { SiteSummary } from '../state/types';
import { Editable } from '../ui/Editable';
import { count, day, ms } from '../ui/format';
import { ErrorBox, HeadUnseen, Loading, MEANS, Term } from '../ui/parts';
import { moveRow, useKeys } from '../ui/useKeys';

const AskDelete = lazy(() => import('../ui/AskDelete'));
const DiskUse = lazy(() => import('./DiskUse'));

/** Reasons from this weight on are drawn as what they cost. */
const PRESSING = 30;
/** Rows that are drawn at first, and with each wish for more. */
const ROWS = 50;

const SORTS = {
  need: { name: 'what needs attention most', by: (a: SiteSummary, b: SiteSummary) => b.need - a.need },
  name: { name: 'name', by: (a: SiteSummary, b: SiteSummary) => a.name.localeCompare(b.name) },
  slow: { name: 'slowest hero paint', by: (a: SiteSummary, b: SiteSummary) => (b.heroMs ?? -1) - (a.heroMs ?? -1) },
  save: { name: 'most to save', by: (a: SiteSummary, b: SiteSummary) => savedBy(b) - savedBy(a) },
  old: {
    name: 'oldest sweep',
    by: (a: SiteSummary, b: SiteSummary) => (a.sweep?.day ?? '').localeCompare(b.sweep?.day ?? ''),
  },
} as const;

const savedBy = (s: SiteSummary) => (s.heroMs ?? 0) - (s.fixedMs ?? s.heroMs ?? 0);

/** All sites: searched, by group, sorted, with what needs attention. */
export function SitesTable(props: { sites: readonly SiteSummary[]; reload: () => void; visitorId: string }) {
  const { sites, reload, visitorId } = props;
  const { query } = useLocation();
  const [row, setRow] = useState(0);
  const [most, setMost] = useState(ROWS);
  const [showsDisk, setShowsDisk] = useState(false);
  const search = query.get('search') ?? '';
  const group = query.get('group') ?? '';
  const sort = (query.get('sort') ?? 'need') as keyof typeof SORTS;
  const groups = [...new Set(sites.map((s) => s.group).filter(Boolean))].sort();
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const found = sites
    .filter((s) => group === '' || s.group === group)
    .filter((s) => words.every((w) => `${s.name} ${s.home} ${s.group}`.toLowerCase().includes(w)))
    .sort((a, b) => (SORTS[sort] ?? SORTS.need).by(a, b) || a.name.localeCompare(b.name));
  const shown = found.slice(0, most);
  const open = (s: SiteSummary) => go(`/sites/${s.id}?visitor=${visitorId}`);
  useKeys({
    j: () => setRow((r) => moveRow(r, 1, shown.length)),
    k: () => setRow((r) => moveRow(r, -1, shown.length)),
    Enter: () => shown[row] && open(shown[row]),
  });
  const needy = sites.filter((s) => s.needs.some((n) => n.weight >= PRESSING)).length;
  return (
    <>
      {sites.length > 1 && (
        <p className="serif-text lead">
          {needy === 0
            ? `None of ${sites.length} sites needs attention now.`
            : `${needy} of ${sites.length} sites ${needy === 1 ? 'needs' : 'need'} attention.`}
        </p>
      )}
      {(sites.length > 1 || groups.length > 0) && (
        // Without scripts the form asks the server for the same list.
        <form className="tools" method="get" onSubmit={(e) => e.preventDefault()}>
          <input
            type="search"
            name="search"
            aria-label="Search sites"
            placeholder="Name, address or group"
            defaultValue={search}
            onChange={(e) => (setQuery({ search: e.target.value || null }), setRow(0))}
          />
          {groups.length > 0 && (
            <label>
              Group{' '}
              <select name="group" value={group} onChange={(e) => setQuery({ group: e.target.value || null })}>
                <option value="">all</option>
                {groups.map((g) => (
                  <option key={g}>{g}</option>
                ))}
              </select>
            </label>
          )}
          <label>
            Sort by{' '}
            <select
              name="sort"
              value={sort}
              onChange={(e) => setQuery({ sort: e.target.value === 'need' ? null : e.target.value })}
            >
              {Object.entries(SORTS).map(([id, s]) => (
                <option key={id} value={id}>
                  {s.name}
                </option>
              ))}
            </select>
          </label>
          <span className="soft" role="status">
            {found.length === sites.length ? count(sites.length, 'site') : `${found.length} of ${sites.length} sites`}
          </span>
        </form>
      )}
      <table className="rows sites-table">
        <thead>
          <tr>
            <th>Site</th>
            <th>Last sweep</th>
            <th>
              <Term means="Broken limits, certificates that end, promises not kept, and hero paint that became worse.">
                Needs attention
              </Term>
            </th>
            <th className="right">
              <Term means={`${MEANS.lcp} ${MEANS.average}`}>Hero paint (LCP)</Term>
            </th>
            <th>Hero paint by page</th>
            <th className="right">Could save</th>
            <th className="right">
              <Term means="Pages on which nothing is broken, exposed or slow.">Clean pages</Term>
            </th>
            <HeadUnseen>Delete</HeadUnseen>
          </tr>
        </thead>
        <tbody>
          {shown.map((s, i) => (
            <SiteRow
              key={s.id}
              site={s}
              at={i === row}
              index={i}
              open={() => open(s)}
              reload={reload}
              groups={groups}
            />
          ))}
        </tbody>
      </table>
      {found.length === 0 && <p className="soft">No site fits.</p>}
      {found.length > most && (
        <button className="button" onClick={() => setMost(most + ROWS)}>
          Show {Math.min(ROWS, found.length - most)} more
        </button>
      )}
      <details onToggle={(e) => setShowsDisk(e.currentTarget.open)}>
        <summary>Disk use</summary>
        {showsDisk && (
          <Suspense fallback={<Loading what="Adding up" />}>
            <DiskUse sites={sites} />
          </Suspense>
        )}
      </details>
    </>
  );
}

function SiteRow({
  site: s,
  at,
  index,
  open,
  reload,
  groups,
}: {
  site: SiteSummary;
  groups: readonly string[];
  at: boolean;
  index: number;
  open: () => void;
  reload: () => void;
}) {
  const [asking, setAsking] = useState(false);
  const [error, setError] = useState<ShownError>();
  const won = s.heroMs !== undefined && s.fixedMs !== undefined ? s.heroMs - s.fixedMs : undefined;
  const slowest = Math.max(...s.heroes, 1);
  // Few pages stand as bars, many as a slope.
  const step = s.heroes.length > 12 ? 6 : 12;
  const remove = () => {
    ask(`/api/sites/${s.id}`, { method: 'DELETE' })
      .then(() => (setAsking(false), reload()))
      .catch((e: unknown) => setError(shownError(e)));
  };
  return (
    <tr data-row={index} className={at ? 'at clickable' : 'clickable'} onClick={open}>
      <td>
        <a
          className="strong"
          href={`/sites/${s.id}`}
          onClick={(e) => (e.preventDefault(), e.stopPropagation(), open())}
        >
          {s.name}
        </a>
        <div className="mono small soft">{s.home}</div>
        <GroupOf site={s} groups={groups} reload={reload} />
      </td>
      <td>
        {s.sweep ? day(s.sweep.day) : <span className="soft">Not swept yet</span>}
        {s.sweep && (
          <div className="soft small">
            {s.sweep.addresses > 0
              ? `${count(s.sweep.addresses, 'address', 'addresses')}, ${s.pages} recorded`
              : count(s.pages, 'page')}
          </div>
        )}
      </td>
      <td>
        {s.needs.map((n) => (
          <div key={n.kind} className={n.weight >= PRESSING ? 'cost' : 'soft'}>
            {n.text}
          </div>
        ))}
        {s.needs.length === 0 && <span className="soft">nothing</span>}
      </td>
      <td className="right cost big">
        {s.heroMs === undefined ? s.pending ? <span className="soft small">working it out …</span> : '–' : ms(s.heroMs)}
      </td>
      <td>
        <svg
          width={Math.max(20, s.heroes.length * step)}
          height={34}
          role="img"
          aria-label={`Hero paint ${s.heroes.length < s.pages ? `of ${s.heroes.length} of ${s.pages} pages` : 'by page'}, slowest first: ${s.heroes.map(ms).join(', ')}`}
        >
          {s.heroes.map((h, k) => (
            <rect
              key={k}
              x={k * step}
              y={33 - (h / slowest) * 32}
              width={step - Math.max(1, step / 3)}
              height={(h / slowest) * 32}
              fill="var(--cost)"
              opacity={0.75}
            />
          ))}
        </svg>
      </td>
      <td className="right gain">{won === undefined ? '–' : ms(Math.max(0, won))}</td>
      <td className="right">
        {s.cleanPages} of {s.pages}
      </td>
      <td className="right" onClick={(e) => e.stopPropagation()}>
        <button
          data-needs="auditor"
          className="link soft"
          onClick={() => setAsking(true)}
          aria-label={`Delete ${s.name}`}
        >
          Delete
        </button>
        {asking && (
          <Suspense>
            <AskDelete
              name={s.name}
              says="This deletes its sweeps, captures and findings. You cannot undo it. Your own files stay where they are."
              error={error}
              onCancel={() => setAsking(false)}
              onDelete={remove}
            />
          </Suspense>
        )}
      </td>
    </tr>
  );
}

/** The group of a site, changed in place. */
function GroupOf({ site, groups, reload }: { site: SiteSummary; groups: readonly string[]; reload: () => void }) {
  const [editing, setEditing] = useState(false);
  const [error, setError] = useState<ShownError>();
  const save = (group: string) => {
    setEditing(false);
    if (group === site.group) return;
    ask(`/api/sites/${site.id}`, {
      method: 'PATCH',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ group }),
    })
      .then(reload)
      .catch((e: unknown) => setError(shownError(e)));
  };
  if (!editing)
    return (
      <Editable needs="auditor" says={<span className="soft small">{site.group}</span>}>
        <button
          className="link soft small"
          aria-label={site.group ? `${site.group}: group of ${site.name}, change it` : `put into a group: ${site.name}`}
          onClick={(e) => (e.stopPropagation(), setEditing(true))}
        >
          {site.group || 'put into a group'}
        </button>
        {error && <ErrorBox error={error} />}
      </Editable>
    );
  return (
    <form
      onClick={(e) => e.stopPropagation()}
      onSubmit={(e) => {
        e.preventDefault();
        save(new FormData(e.currentTarget).get('group') as string);
      }}
    >
      <input
        name="group"
        aria-label={`Group of ${site.name}`}
        defaultValue={site.group}
        list={`groups-${site.id}`}
        maxLength={80}
        autoFocus
        onBlur={(e) => save(e.target.value.trim())}
        onKeyDown={(e) => {
          if (e.key !== 'Escape') return;
          // What leaves the field is saved: nothing is to leave it.
          e.currentTarget.value = site.group;
          setEditing(false);
        }}
      />
      <datalist id={`groups-${site.id}`}>
        {groups.map((g) => (
          <option key={g} value={g} />
        ))}
      </datalist>
    </form>
  );
}
