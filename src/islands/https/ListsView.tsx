import { lazy, Suspense, useRef, useState } from 'react';
import { FATE_MEANS, needsWork, type Fate, type FateRow } from '../../core/site/fates';
import type { ListSummary } from '../../engine/store/lists';
import { ask, shownError, useResource, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { setQuery, useLocation } from '../state/location';
import { count, dayTime } from '../ui/format';
import { ErrorBox, Loading } from '../ui/parts';
import { SearchBox } from '../ui/SearchBox';
import { Paging } from '../ui/Paging';
import { SetTo } from '../ui/SetTo';
import { useKeys } from '../ui/useKeys';
import { JobLine, useSiteJob } from '../sweep/SiteJob';
import { PeriodsView } from './PeriodsView';

const AskDelete = lazy(() => import('../ui/AskDelete'));

const PAGE = 50;

/** Lists from elsewhere and what happens to each of their addresses today. */
export default function ListsView() {
  const { siteId } = useBench();
  const { query } = useLocation();
  const lists = useResource<readonly ListSummary[]>(`/api/sites/${siteId}/lists`);
  const job = useSiteJob(siteId, 'fates', lists.reload);
  const [error, setError] = useState<ShownError>();
  const [going, setGoing] = useState<ListSummary>();
  const asked = Number(query.get('list'));
  const withAddresses = lists.value?.filter((l) => l.kind !== 'days') ?? [];
  const open = withAddresses.find((l) => l.id === asked) ?? withAddresses[0];
  const remove = (list: ListSummary) => {
    setGoing(undefined);
    ask(`/api/sites/${siteId}/lists/${list.id}`, { method: 'DELETE' })
      .then(lists.reload)
      .catch((e: unknown) => setError(shownError(e)));
  };
  const again = (list: ListSummary) =>
    void ask(`/api/sites/${siteId}/lists/${list.id}`, { method: 'POST' }).catch((e: unknown) =>
      setError(shownError(e)),
    );
  if (lists.error) return <ErrorBox error={lists.error} retry={lists.reload} />;
  return (
    <section aria-label="Outside lists">
      <p className="soft">
        Search exports, index states, old sitemaps, inbound links or plain lists: what happens to each URL today. An
        http:// URL that redirects properly is history, not a fault.
      </p>
      <AddList siteId={siteId} onAdded={lists.reload} />
      {error && <ErrorBox error={error} />}
      {job && <JobLine job={job} />}
      {!lists.value && lists.loading && <Loading what="Reading lists" />}
      {lists.value && lists.value.length === 0 && <p>No list yet. Drop one on the field above, or paste addresses.</p>}
      {lists.value && lists.value.length > 0 && (
        <table className="grid">
          <thead>
            <tr>
              <th>List</th>
              <th>Kind</th>
              <th className="right">Rows</th>
              <th className="right">Clicks</th>
              <th className="right">Need work</th>
              <th>Checked</th>
              <th>
                <span className="unseen">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {lists.value.map((l) => (
              <tr key={l.id} className={l.id === open?.id ? 'on' : ''}>
                <td>
                  {l.kind === 'days' ? (
                    l.name
                  ) : (
                    <SetTo
                      className="link"
                      role="button"
                      aria-pressed={l.id === open?.id}
                      changes={{ list: String(l.id), fate: null, from: null }}
                    >
                      {l.name}
                    </SetTo>
                  )}
                  {l.fromDay && (
                    <span className="soft small">
                      {' '}
                      {l.fromDay} to {l.toDay}
                    </span>
                  )}
                </td>
                <td>{l.kind}</td>
                <td className="right">
                  {l.rows.toLocaleString('en-GB')}
                  {l.unread.count > 0 && (
                    <span className="cost" title={l.unread.examples.join('\n')}>
                      {' '}
                      ({l.unread.count} unread)
                    </span>
                  )}
                </td>
                <td className="right">{l.clicks === null ? '' : Math.round(l.clicks).toLocaleString('en-GB')}</td>
                <td className="right">
                  {l.groups.filter((g) => needsWork(g.fate)).reduce((n, g) => n + g.count, 0) || ''}
                </td>
                <td className="soft">{l.kind === 'days' ? '' : l.askedAt ? dayTime(l.askedAt) : 'not yet'}</td>
                <td className="right">
                  {l.kind !== 'days' && (
                    <button
                      data-needs="auditor"
                      className="link"
                      onClick={() => again(l)}
                      aria-label={`Check ${l.name} again`}
                    >
                      Check again
                    </button>
                  )}{' '}
                  <button
                    data-needs="auditor"
                    className="link"
                    onClick={() => setGoing(l)}
                    aria-label={`Delete ${l.name}`}
                  >
                    Delete
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {going && (
        <Suspense>
          <AskDelete
            name={going.name}
            says={`This deletes the list with its ${count(going.rows, 'row')}. You cannot undo it.`}
            onCancel={() => setGoing(undefined)}
            onDelete={() => remove(going)}
          />
        </Suspense>
      )}
      {open && <Fates siteId={siteId} list={open} />}
      {lists.value && <PeriodsView siteId={siteId} lists={lists.value} />}
    </section>
  );
}

interface FatesAnswer {
  readonly list: ListSummary;
  readonly total: number;
  readonly rows: readonly FateRow[];
}

function Fates({ siteId, list }: { siteId: number; list: ListSummary }) {
  const { query } = useLocation();
  const fate = query.get('fate') as Fate | null;
  const box = useRef<HTMLInputElement>(null);
  useKeys({ '/': () => box.current?.focus() });
  const from = Math.max(0, Number(query.get('from')) || 0);
  const search = query.get('find') ?? '';
  const filter = new URLSearchParams({
    ...(fate && { fate }),
    ...(search && { search }),
    sort: query.get('order') ?? 'work',
  });
  const path = `/api/sites/${siteId}/lists/${list.id}?${filter}`;
  const found = useResource<FatesAnswer>(`${path}&offset=${from}&limit=${PAGE}`, list.askedAt ?? '');
  if (list.askedAt === null) return <p className="soft">Its addresses have not been checked yet.</p>;
  return (
    <section aria-label={`Addresses of ${list.name}`}>
      <h2>{list.name}</h2>
      <p className="soft small">
        Read as:{' '}
        {Object.entries(list.roles)
          .map(([role, i]) => `${role} from “${list.columns[i] ?? i + 1}”`)
          .join(', ')}
      </p>
      <ul className="coverage-legend">
        {list.groups.map((g) => (
          <li key={g.fate}>
            <SetTo
              role="button"
              className={g.fate === fate ? 'strong' : 'link'}
              aria-pressed={g.fate === fate}
              changes={{ fate: g.fate === fate ? null : g.fate, from: null }}
              title={FATE_MEANS[g.fate]}
            >
              <span className={needsWork(g.fate) ? 'cost' : 'gain'}>{g.count.toLocaleString('en-GB')}</span> {g.fate}
            </SetTo>
          </li>
        ))}
      </ul>
      <div className="tools">
        <SearchBox
          box={box}
          what="addresses"
          name="find"
          value={search}
          onChange={(w) => setQuery({ find: w || null, from: null })}
        />
        <label className="soft">
          Sort by{' '}
          <select
            value={query.get('order') ?? 'work'}
            onChange={(e) => setQuery({ order: e.target.value === 'work' ? null : e.target.value, from: null })}
          >
            <option value="work">what needs work</option>
            <option value="clicks">clicks</option>
            <option value="address">address</option>
          </select>
        </label>
        <span className="right">
          Export what is shown{' '}
          <a className="export" href={`${path}&format=csv`}>
            CSV
          </a>
          <a className="export" href={`${path}&format=xlsx`}>
            XLSX
          </a>
        </span>
      </div>
      {found.error && <ErrorBox error={found.error} retry={found.reload} />}
      {!found.value && found.loading && <Loading what="Reading addresses" />}
      {found.value && found.value.total === 0 && <p className="soft">No address matches.</p>}
      {found.value && found.value.total > 0 && (
        <table className="grid">
          <thead>
            <tr>
              <th>Address</th>
              <th>Today</th>
              <th>What happens</th>
              <th className="right">Clicks</th>
            </tr>
          </thead>
          <tbody>
            {found.value.rows.map((r) => (
              <tr key={r.address}>
                <td className="mono break">{r.address}</td>
                <td className={needsWork(r.fate) ? 'cost' : ''}>{r.fate}</td>
                <td>
                  {r.says}
                  {r.nearest && (
                    <div className="small">
                      Nearest page: <span className="mono">{r.nearest.url}</span>{' '}
                      <span className="soft">({r.nearest.why})</span>
                    </div>
                  )}
                  {r.state && <div className="small soft">The list says: {r.state}</div>}
                </td>
                <td className="right">{r.clicks === undefined ? '' : Math.round(r.clicks).toLocaleString('en-GB')}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {found.value && <Paging from={from} page={PAGE} total={found.value.total} />}
    </section>
  );
}

/** Takes a file by choosing or dropping it, or pasted text. */
function AddList({ siteId, onAdded }: { siteId: number; onAdded: () => void }) {
  const input = useRef<HTMLInputElement>(null);
  const [pasted, setPasted] = useState('');
  const [column, setColumn] = useState('');
  const [busy, setBusy] = useState<string>();
  const [error, setError] = useState<ShownError>();
  const add = (content: Blob, name: string) => {
    setBusy(name);
    setError(undefined);
    ask(`/api/sites/${siteId}/lists${column ? `?address=${encodeURIComponent(column)}` : ''}`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream', 'x-file-name': encodeURIComponent(name) },
      body: content,
    })
      .then(() => {
        setPasted('');
        onAdded();
      })
      .catch((e: unknown) => setError(shownError(e)))
      .finally(() => setBusy(undefined));
  };
  return (
    <div
      data-needs="auditor"
      className="drop-field"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        // The whole page takes captures; this field takes lists.
        e.stopPropagation();
        for (const file of e.dataTransfer.files) add(file, file.name);
      }}
    >
      <div className="tools">
        <button className="put" onClick={() => input.current?.click()}>
          Choose a list
        </button>
        <input
          ref={input}
          type="file"
          hidden
          aria-label="List of addresses"
          accept=".csv,.tsv,.txt,.xml,.xlsx,.zip,.gz"
          onChange={(e) => {
            for (const file of e.target.files ?? []) add(file, file.name);
            e.target.value = '';
          }}
        />
        <span className="soft">or drop one here: CSV, TSV, XLSX, XML sitemap, zip or plain text</span>
        <label className="soft">
          Column of addresses{' '}
          <input value={column} placeholder="found by itself" onChange={(e) => setColumn(e.target.value)} />
        </label>
      </div>
      <textarea
        rows={2}
        aria-label="Pasted addresses"
        placeholder="Or paste addresses, one a line"
        value={pasted}
        onChange={(e) => setPasted(e.target.value)}
      />
      {pasted.trim() && (
        <button className="put" onClick={() => add(new Blob([pasted]), 'pasted list')}>
          Add what was pasted
        </button>
      )}
      {busy && <Loading what={`Reading ${busy}`} />}
      {error && <ErrorBox error={error} />}
    </div>
  );
}
