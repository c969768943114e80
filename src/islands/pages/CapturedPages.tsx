import { useMemo, useRef, useState } from 'react';
import { fieldValue } from '../../core/field/words';
import { FieldLine } from '../field/FieldLine';
import { useBench, useBenchAnswer } from '../state/bench';
import { go } from '../state/location';
import { bytes, effectText, ms } from '../ui/format';
import { MEANS, Term } from '../ui/parts';
import { SearchBox } from '../ui/SearchBox';
import { SortHead, sortRows, type Sort } from '../ui/SortHead';
import { useFirstRows } from '../ui/useFirstRows';
import { moveRow, useKeys } from '../ui/useKeys';

type Column = 'title' | 'hero' | 'after' | 'first' | 'field' | 'bytes' | 'requests' | 'findings';

/** The captured pages with their figures for the visitor, now and with the bench. */
export function CapturedPages() {
  const bench = useBench();
  const answer = useBenchAnswer();
  const search = useRef<HTMLInputElement>(null);
  const [words, setWords] = useState('');
  const [row, setRow] = useState(0);
  const [sort, setSort] = useState<Sort<Column>>({ by: 'hero', down: true });
  const rows = useMemo(() => {
    const figures = new Map(answer?.pages.map((p) => [p.captureId, p]));
    const value = (r: (typeof list)[number], by: Column): number | string =>
      ({
        title: r.row.title,
        hero: r.f?.nowMs ?? 0,
        after: r.f?.afterMs ?? 0,
        first: r.f?.nowFcpMs ?? 0,
        field: r.field?.p75.lcpMs ?? 0,
        bytes: r.row.bytes,
        requests: r.row.requests,
        findings: r.row.findings,
      })[by];
    const list = (bench.data.value?.pages ?? []).map(({ row: r, field }) => ({ row: r, field, f: figures.get(r.id) }));
    const shown = list.filter((r) => `${r.row.title} ${r.row.page}`.toLowerCase().includes(words.toLowerCase()));
    return sortRows(shown, sort, value);
  }, [bench.data.value, answer, words, sort]);
  const drawn = useFirstRows(rows);
  const withField = bench.data.value?.pages.some((p) => p.field?.p75.lcpMs !== undefined) ?? false;
  const open = (id: number) => go(`${bench.base}/pages/${id}${window.location.search}`);
  useKeys({
    j: () => setRow((r) => moveRow(r, 1, rows.length)),
    k: () => setRow((r) => moveRow(r, -1, rows.length)),
    Enter: () => rows[row] && open(rows[row].row.id),
    '/': () => search.current?.focus(),
  });
  const head = (by: Column, name: React.ReactNode, right = true) => (
    <SortHead by={by} sort={sort} onSort={setSort} right={right} downFirst={by !== 'title'}>
      {name}
    </SortHead>
  );
  return (
    <>
      <div className="tools">
        <SearchBox what="pages" box={search} value={words} onChange={setWords} />
        <span className="soft">
          {rows.length} of {bench.pages.length} pages, {bench.visitor.name.toLowerCase()}
        </span>
      </div>
      <table className="rows">
        <thead>
          <tr>
            {head('title', 'Page', false)}
            {head('hero', <Term means={MEANS.lcp}>Hero paint (LCP)</Term>)}
            {head('after', 'With the bench')}
            {head('first', <Term means={MEANS.fcp}>First paint (FCP)</Term>)}
            {withField && head('field', <Term means={MEANS.field}>Real visits (LCP)</Term>)}
            {head('requests', 'Loads')}
            {head('bytes', 'Size')}
            {head('findings', 'Findings')}
          </tr>
        </thead>
        <tbody>
          {drawn.map(({ row: r, f, field }, i) => (
            <tr key={r.id} data-row={i} className={i === row ? 'at clickable' : 'clickable'} onClick={() => open(r.id)}>
              <td>
                <a
                  href={`/sites/${r.siteId}/pages/${r.id}`}
                  onClick={(e) => (e.preventDefault(), e.stopPropagation(), open(r.id))}
                >
                  {bench.pages.find((p) => p.captureId === r.id)?.title ?? r.page}
                </a>
                <div className="mono small soft break">{r.page.replace(/^https:\/\//, '')}</div>
                <FieldLine row={field} metrics={['lcpMs']} bare />
              </td>
              <td className="right cost">{f ? ms(f.nowMs) : '…'}</td>
              <td className="right">
                {f ? ms(f.afterMs) : '…'}{' '}
                {f && Math.abs(f.afterMs - f.nowMs) >= 40 && (
                  <span className={f.afterMs < f.nowMs ? 'gain' : 'cost'}>{effectText(f.afterMs - f.nowMs)}</span>
                )}
              </td>
              <td className="right">{f ? ms(f.nowFcpMs) : '…'}</td>
              {withField && (
                <td className="right">{field?.p75.lcpMs === undefined ? '–' : fieldValue('lcpMs', field.p75.lcpMs)}</td>
              )}
              <td className="right">{r.requests}</td>
              <td className="right">{bytes(r.bytes)}</td>
              <td className="right">{r.findings}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length === 0 && <p className="soft">No page has these words.</p>}
    </>
  );
}
