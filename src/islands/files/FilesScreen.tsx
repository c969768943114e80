import { useRef } from 'react';
import { fileName, hostOf, pathOf } from '../../core/capture/url';
import { CACHE_CLASSES, FILE_GROUPS, fileType, type FileGroup, type FileSort } from '../../core/pictures/fileQuery';
import type { SweepFile } from '../../core/pictures/files';
import { island } from '../frame/island';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { setQuery, useLocation } from '../state/location';
import { bytes, count } from '../ui/format';
import { FilterForm } from '../ui/FilterForm';
import { Paging } from '../ui/Paging';
import { ErrorBox, Loading, Term } from '../ui/parts';
import { SearchBox } from '../ui/SearchBox';
import { SetTo } from '../ui/SetTo';
import { To } from '../ui/To';
import { useKeys } from '../ui/useKeys';
import { FILE_COLUMNS, shownColumns, type FileColumn } from './columns';
import type { FileGroupsAnswer, FilesAnswer } from '../../engine/services/filesLists';
import { FILE_FILTERS, fileGroupsPath, FILES_PAGE, filesPath, narrowedTo } from './filesPath';

/** Every file of the recorded pages, once: columns to choose, filters, groups with sums, exports. */
function FilesScreen() {
  const { sweepId, data, pages } = useBench();
  const { query } = useLocation();
  const box = useRef<HTMLInputElement>(null);
  useKeys({ '/': () => box.current?.focus() });
  const device = data.value?.device ?? 'phone';
  const by = FILE_GROUPS.find((g) => g !== 'file' && g === query.get('group'));
  const listed = useResource<FilesAnswer>(sweepId === undefined ? undefined : filesPath(sweepId, device, query));
  const groups = useResource<FileGroupsAnswer>(
    sweepId === undefined || !by ? undefined : fileGroupsPath(sweepId, device, query, by, 'with search'),
  );
  const narrowed = FILE_FILTERS.filter((f) => query.get(f));
  const nothing = Object.fromEntries([...FILE_FILTERS, 'search', 'from'].map((f) => [f, null]));
  const answer = listed.value;
  return (
    <>
      <h1 className="serif">Files</h1>
      <p className="soft lead">
        Every file that the recorded pages load on {device}, once: which pages use it, its bytes, how long it is cached.
      </p>
      <FilterForm fields={['search', 'type', 'host', 'cache', 'party']}>
        <SearchBox
          what="files and alternative texts"
          name="search"
          box={box}
          value={query.get('search') ?? ''}
          onChange={(w) => setQuery({ search: w || null, from: null })}
        />
        {answer && (
          <>
            <Pick name="type" label="Type" values={answer.facets.types} />
            <Pick name="host" label="Host" values={answer.facets.hosts} />
            <Pick
              name="cache"
              label="Cache"
              values={CACHE_CLASSES.flatMap((c) => answer.facets.caches.filter((f) => f.value === c))}
            />
          </>
        )}
        <SetTo
          role="button"
          className={query.get('heavy') ? 'chip on' : 'chip'}
          aria-pressed={query.get('heavy') !== null}
          changes={{ heavy: query.get('heavy') ? null : 'true', from: null }}
        >
          more than needed
        </SetTo>
        <SetTo
          role="button"
          className={query.get('party') === 'third' ? 'chip on' : 'chip'}
          aria-pressed={query.get('party') === 'third'}
          changes={{ party: query.get('party') === 'third' ? null : 'third', from: null }}
        >
          third parties
        </SetTo>
        <span className="right">
          Export what is shown{' '}
          {(['csv', 'xlsx', 'json-file'] as const).map((format) => (
            <a key={format} href={`${filesPath(sweepId ?? 0, device, query)}&format=${format}`} className="export">
              {format === 'json-file' ? 'JSON' : format.toUpperCase()}
            </a>
          ))}
        </span>
      </FilterForm>
      {narrowed.length > 0 && (
        <p className="tools" aria-label="Filters">
          {narrowed.map((f) => (
            <SetTo
              key={f}
              role="button"
              className="chip on"
              changes={{ [f]: null, from: null }}
              aria-label={`Remove ${f}`}
            >
              {f}: {filterText(f, query.get(f) ?? '', pages)} ×
            </SetTo>
          ))}
          <SetTo role="button" className="link" changes={nothing}>
            Clear filters
          </SetTo>
        </p>
      )}
      {listed.error && <ErrorBox error={listed.error} retry={listed.reload} />}
      {!answer && !listed.error && <Loading what="Putting the files together" />}
      {answer && (
        <>
          <p role="status">
            <b>{count(answer.total.files, 'file')}</b>
            {answer.total.files < answer.all.files && ` of ${answer.all.files}`}, {bytes(answer.total.delivered)}{' '}
            delivered
            {answer.all.delivered > 0 &&
              answer.total.files < answer.all.files &&
              ` (${Math.round((100 * answer.total.delivered) / answer.all.delivered)} %)`}
            , <span className="gain">{bytes(answer.total.needed)} needed</span>, on {count(answer.total.pages, 'page')}
          </p>
          <p className="tools">
            <span className="soft">Group by</span>
            {[undefined, ...FILE_GROUPS.filter((g) => g !== 'file')].map((g) => (
              <SetTo
                key={g ?? 'none'}
                role="button"
                className={g === by ? 'strong' : 'link'}
                aria-pressed={g === by}
                changes={{ group: g ?? null }}
              >
                {g ?? 'nothing'}
              </SetTo>
            ))}
          </p>
          {by && groups.value && <Groups answer={groups.value} by={by} />}
          {by && groups.error && <ErrorBox error={groups.error} retry={groups.reload} />}
          <FileTable answer={answer} />
        </>
      )}
    </>
  );
}

function Pick({
  name,
  label,
  values,
}: {
  name: string;
  label: string;
  values: readonly { value: string; files: number }[];
}) {
  const { query } = useLocation();
  const chosen = query.get(name) ?? '';
  if (values.length < 2 && chosen === '') return null;
  return (
    <select
      name={name}
      aria-label={label}
      className="filter"
      value={chosen}
      onChange={(e) => setQuery({ [name]: e.target.value || null, from: null })}
    >
      <option value="">{label}: all</option>
      {values.map((v) => (
        <option key={v.value} value={v.value}>
          {v.value} ({v.files})
        </option>
      ))}
    </select>
  );
}

function filterText(name: string, value: string, pages: readonly { captureId: number; page: string }[]): string {
  if (name === 'page') return pathOf(pages.find((p) => String(p.captureId) === value)?.page ?? value);
  if (name === 'file') return fileName(value);
  if (name === 'heavy') return 'more than needed';
  return name === 'directory' ? value.replace(' /', '/') : value;
}

function Groups({ answer, by }: { answer: FileGroupsAnswer; by: FileGroup }) {
  const most = Math.max(1, ...answer.groups.map((g) => g.delivered));
  return (
    <table className="grid file-groups">
      <caption className="unseen">Files by {by}</caption>
      <thead>
        <tr>
          <th>{by}</th>
          <th className="right">Files</th>
          <th className="right">Delivered</th>
          <th className="right">Share</th>
          <th className="right">Needed</th>
          <th>
            <span className="unseen">Delivered and needed</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {answer.groups.slice(0, 50).map((g) => (
          <tr key={g.key}>
            <td className="break">
              <SetTo role="button" className="link" changes={{ ...narrowedTo(by, g.key), from: null }}>
                {by === 'page' ? pathOf(g.name) : g.name}
              </SetTo>
            </td>
            <td className="right">{g.files}</td>
            <td className="right">{bytes(g.delivered)}</td>
            <td className="right">{Math.round((100 * g.delivered) / Math.max(1, answer.total.delivered))} %</td>
            <td className="right gain">{bytes(g.needed)}</td>
            <td>
              <span className="file-bar" style={{ width: (120 * g.delivered) / most }}>
                <i style={{ width: (120 * g.needed) / most }} />
              </span>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function FileTable({ answer }: { answer: FilesAnswer }) {
  const { query } = useLocation();
  const columns = shownColumns(query);
  const sort = (query.get('sort') ?? 'delivered') as FileSort;
  const descending = query.get('descending') !== 'false';
  if (answer.rows.length === 0) return <p className="soft">No file fits these filters.</p>;
  return (
    <>
      <details className="tools columns-pick">
        <summary>Columns</summary>
        {FILE_COLUMNS.map((c) => {
          const on = columns.includes(c);
          const next = FILE_COLUMNS.filter((x) => (x === c ? !on : columns.includes(x))).map((x) => x.key);
          return (
            <SetTo
              key={c.key}
              role="button"
              className={on ? 'chip on' : 'chip'}
              aria-pressed={on}
              changes={{ columns: next.join('.') || 'none' }}
            >
              {c.name}
            </SetTo>
          );
        })}
        <SetTo role="button" className="link" changes={{ columns: null }}>
          The usual ones
        </SetTo>
      </details>
      <div className="file-scroll">
        <table className="grid files">
          <thead>
            <tr>
              <th aria-sort={sort === 'url' ? (descending ? 'descending' : 'ascending') : 'none'}>
                <SortLink by="url" sort={sort} descending={descending} name="File" />
              </th>
              {columns.map((c) => (
                <th
                  key={c.key}
                  className={c.right ? 'right' : ''}
                  aria-sort={c.sort === sort ? (descending ? 'descending' : 'ascending') : undefined}
                >
                  {c.sort ? (
                    <SortLink by={c.sort} sort={sort} descending={descending} name={c.name} />
                  ) : c.means ? (
                    <Term means={c.means}>{c.name}</Term>
                  ) : (
                    c.name
                  )}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {answer.rows.map((f) => (
              <FileRow key={f.url} file={f} columns={columns} />
            ))}
          </tbody>
        </table>
      </div>
      <Paging from={answer.offset} page={FILES_PAGE} total={answer.total.files} />
    </>
  );
}

function SortLink({ by, sort, descending, name }: { by: FileSort; sort: FileSort; descending: boolean; name: string }) {
  const on = by === sort;
  // Numbers begin with the largest, texts with the first of the alphabet.
  const down = on ? !descending : !['url', 'host', 'type', 'place'].includes(by);
  return (
    <SetTo
      role="button"
      className="link"
      changes={{ sort: by === 'delivered' ? null : by, descending: down ? null : 'false', from: null }}
    >
      {name}
      {on ? (descending ? ' ↓' : ' ↑') : ''}
    </SetTo>
  );
}

function FileRow({ file, columns }: { file: SweepFile; columns: readonly FileColumn[] }) {
  const { siteId, pages } = useBench();
  const path = pathOf(file.url);
  return (
    <tr>
      <td className="break">
        <details className="file-uses">
          <summary>
            <b>{fileName(file.url)}</b> <span className="mono small soft">{hostOf(file.url) + path}</span>
          </summary>
          <ul className="small">
            {file.uses.map(([id, delivered, needed, again]) => {
              const page = pages.find((p) => p.captureId === id);
              return (
                <li key={id}>
                  <To to={`/sites/${siteId}/pages/${id}?tab=loads`}>{page ? pathOf(page.page) : `capture ${id}`}</To>{' '}
                  <span className="soft">
                    {bytes(delivered)} delivered, {bytes(needed)} needed, {bytes(again)} on a second visit
                  </span>
                </li>
              );
            })}
          </ul>
          {file.alts.length > 0 && (
            <p className="small">
              Alternative texts: {file.alts.map((a) => (a === '' ? '(empty: decoration)' : `“${a}”`)).join(', ')}
            </p>
          )}
          {fileType(file).startsWith('image/') && file.needed < file.delivered && (
            <p className="small">
              <To to={`/sites/${siteId}/concerns/weight?file=${encodeURIComponent(file.url)}&by=file`}>
                See it re-encoded
              </To>
            </p>
          )}
        </details>
      </td>
      {columns.map((c) => (
        <td key={c.key} className={[c.right ? 'right' : '', c.key === 'saved' ? 'cost' : ''].join(' ').trim()}>
          {c.value(file)}
        </td>
      ))}
    </tr>
  );
}

export default island(FilesScreen, 'recordings');
