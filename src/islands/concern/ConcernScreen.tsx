import { useMemo, useRef, useState } from 'react';
import { CONCERNS, type Concern, type Harm } from '../../core/checks/finding';
import { fileName } from '../../core/capture/url';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { go, setQuery, useLocation } from '../state/router';
import type { FindingRow } from '../state/types';
import { count } from '../ui/format';
import { ErrorBox, HarmMark, Kbd, Loading } from '../ui/parts';
import { SearchBox } from '../ui/SearchBox';
import { moveRow, useKeys } from '../ui/useKeys';

const QUESTION: Readonly<Record<Concern, string>> = {
  https:
    'Does every way into this site end, in one permanent hop, at one secure address, and does the site say so itself?',
  mixed: 'What do secure pages still fetch over http, does a browser refuse or upgrade it, and where is it written?',
  hero: 'What is the largest thing of the first screen, and what keeps it from coming first?',
  weight: 'Which files are bigger than what they give?',
  blocking: 'What must arrive and run before anything is drawn?',
};

/** Findings that are one cause: the same check on the same target (or the same words for heroes). */
interface Cause {
  readonly key: string;
  readonly first: FindingRow;
  readonly rows: readonly FindingRow[];
}

/** All findings of a concern, grouped by cause. */
export function ConcernScreen({ concern }: { concern: Concern }) {
  const bench = useBench();
  const { query } = useLocation();
  const harm = query.get('harm') as Harm | null;
  const words = query.get('search') ?? '';
  const search = useRef<HTMLInputElement>(null);
  const [row, setRow] = useState(0);
  const filter = `device=${bench.data.value?.device ?? 'phone'}&concern=${concern}${harm ? `&harm=${harm}` : ''}${words ? `&search=${encodeURIComponent(words)}` : ''}`;
  const path = `/api/sweeps/${bench.sweepId ?? 0}/findings?${filter}`;
  const found = useResource<{ total: number; rows: FindingRow[] }>(`${path}&limit=5000`);
  const causes = useMemo(() => groupCauses(found.value?.rows ?? []), [found.value]);
  const openPage = (f: FindingRow) =>
    go(
      `/sites/${bench.site.value?.id ?? ''}/pages/${f.captureId}?${f.evidence.source?.url === f.page ? `tab=source&line=${f.evidence.source.line}` : 'tab=findings'}`,
    );
  const groupsOf = (c: Cause) => {
    const ids = new Set(c.rows.map((r) => r.id));
    return bench.groups.filter((g) => g.fixes.some((f) => f.findings.some((id) => ids.has(id))));
  };
  useKeys({
    j: () => setRow((r) => moveRow(r, 1, causes.length)),
    k: () => setRow((r) => moveRow(r, -1, causes.length)),
    '/': () => search.current?.focus(),
    Enter: () => causes[row] && openPage(causes[row].first),
    b: () => {
      const group = causes[row] && groupsOf(causes[row])[0];
      if (group) bench.toggle(group.id);
    },
  });
  return (
    <>
      <h1 className="serif">{CONCERNS.find((c) => c.id === concern)?.name}</h1>
      <p className="soft lead">{QUESTION[concern]}</p>
      <div className="tools">
        <SearchBox what="findings" box={search} value={words} onChange={(w) => setQuery({ search: w || null })} />
        <span role="group" aria-label="Harm">
          {(['broken', 'exposed', 'slow', 'tidy'] as const).map((h) => (
            <button
              key={h}
              className={harm === h ? 'chip on' : 'chip'}
              aria-pressed={harm === h}
              onClick={() => setQuery({ harm: harm === h ? null : h })}
            >
              {h}
            </button>
          ))}
        </span>
        <span className="soft">
          {count(causes.length, 'cause')}, {count(found.value?.total ?? 0, 'finding')}
        </span>
        <span className="right">
          Export <a href={`${path}&format=csv`}>CSV</a> <a href={`${path}&format=sarif`}>SARIF</a>
        </span>
      </div>
      {found.error && <ErrorBox error={found.error} retry={found.reload} />}
      {!found.value && found.loading && <Loading what="Reading findings" />}
      {found.value && causes.length === 0 && (
        <p className="soft">
          {harm || words
            ? 'No finding fits these filters.'
            : 'No check of this concern found a fault in the captured pages.'}
        </p>
      )}
      <ul className="findings">
        {causes.map((c, i) => (
          <li key={c.key} data-row={i} className={i === row ? 'at' : ''} onClick={() => setRow(i)}>
            <div className="finding-head">
              <HarmMark harm={c.first.harm} />
              <b>{c.first.title}</b>
              <span className="soft">{count(new Set(c.rows.map((r) => r.page)).size, 'page')}</span>
            </div>
            <p>{c.first.plain}</p>
            <p className="mono small">
              {c.rows.slice(0, 6).map((r) => (
                <button key={r.id} className="link" onClick={() => openPage(r)}>
                  {placeName(r)}
                </button>
              ))}
              {c.rows.length > 6 && <span className="soft"> and {c.rows.length - 6} more</span>}
            </p>
            {groupsOf(c).map((g) => {
              const on = bench.chosen.includes(g.id);
              return (
                <div key={g.id} className="fix-line">
                  <button className={on ? 'put on' : 'put'} aria-pressed={on} onClick={() => bench.toggle(g.id)}>
                    {on ? 'on bench' : 'put on bench'} {i === row && groupsOf(c)[0] === g && <Kbd>b</Kbd>}
                  </button>
                  <span>{g.title}</span>
                  <span className="soft">{count(g.pages, 'page')}</span>
                </div>
              );
            })}
          </li>
        ))}
      </ul>
    </>
  );
}

/** Page and line; the stylesheet's name and line where the fault stands in one. */
function placeName(r: FindingRow): string {
  const path = new URL(r.page).pathname;
  const s = r.evidence.source;
  if (!s) return path;
  return s.url === r.page ? `${path}:${s.line}` : `${path} in ${fileName(s.url)}:${s.line}`;
}

function groupCauses(rows: readonly FindingRow[]): Cause[] {
  const rank = { broken: 0, exposed: 1, slow: 2, tidy: 3 } as const;
  const groups = new Map<string, FindingRow[]>();
  for (const r of rows) {
    const key = `${r.check}|${r.target}`;
    groups.set(key, [...(groups.get(key) ?? []), r]);
  }
  return [...groups]
    .map(([key, list]) => ({ key, first: list[0] as FindingRow, rows: list }))
    .sort((a, b) => rank[a.first.harm] - rank[b.first.harm] || b.rows.length - a.rows.length);
}
