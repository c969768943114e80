import { lazy, Suspense, useEffect, useState } from 'react';
import { HomeBar } from '../frame/HomeBar';
import { VisitorSwitch } from '../visitors/VisitorSwitch';
import { ask, shownError, useResource, type ShownError } from '../state/api';
import { nextVisitor, useVisitor, useVisitors } from '../state/visitors';
import { go, setQuery } from '../state/location';
import type { SiteSummary } from '../state/types';
import { count, day, ms } from '../ui/format';
import { ErrorBox, Loading, MEANS, Term, HeadUnseen } from '../ui/parts';
import { moveRow, useKeys } from '../ui/useKeys';
import { AddSite } from './AddSite';
import { ImportList, useImports } from './imports';
import { island } from '../frame/island';

const DeleteSite = lazy(() => import('./DeleteSite'));

/** Every site; capture files may be dropped anywhere on the page. */
export function SitesScreen() {
  const visitor = useVisitor();
  const visitors = useVisitors();
  const sites = useResource<{ sites: SiteSummary[] }>(`/api/sites?visitor=${visitor.id}`);
  const [into, setInto] = useState<number>();
  const imports = useImports(sites.reload, into);
  const [over, setOver] = useState(false);
  const [row, setRow] = useState(0);
  const list = sites.value?.sites ?? [];
  const open = (s: SiteSummary) => go(`/sites/${s.id}?visitor=${visitor.id}`);
  useKeys({
    v: () => setQuery({ visitor: nextVisitor(visitors, visitor.id) }),
    j: () => setRow((r) => moveRow(r, 1, list.length)),
    k: () => setRow((r) => moveRow(r, -1, list.length)),
    Enter: () => list[row] && open(list[row]),
  });
  useDrop(setOver, imports.add);
  return (
    <>
      <HomeBar>
        <VisitorSwitch value={visitor} onChange={(id) => setQuery({ visitor: id })} />
      </HomeBar>
      <main id="main" tabIndex={-1} className={over ? 'sites over' : 'sites'}>
        <div className="between">
          <h1 className="serif">Sites</h1>
          <label className="button solid">
            Choose capture files
            <input
              type="file"
              multiple
              accept=".har,.json,.gz,.warc,.mhtml,.mht,.html,.htm,.zip"
              onChange={(e) => (imports.add([...(e.target.files ?? [])]), (e.target.value = ''))}
            />
          </label>
        </div>
        <AddSite />
        <p className="soft">
          Or drop captures anywhere on this page: HAR, WARC, MHTML, a saved page with its folder as ZIP. Cookies,
          passwords and tokens are removed before anything is stored.{' '}
          {list.length > 0 && (
            <label>
              Import into{' '}
              <select
                value={into ?? ''}
                onChange={(e) => setInto(e.target.value === '' ? undefined : Number(e.target.value))}
              >
                <option value="">the site of each page</option>
                {list.map((s) => (
                  <option key={s.id} value={s.id}>
                    {s.name}
                  </option>
                ))}
              </select>
            </label>
          )}
        </p>
        <ImportList imports={imports} />
        {sites.error && <ErrorBox error={sites.error} retry={sites.reload} />}
        {!sites.value && sites.loading && <Loading what="Reading sites" />}
        {sites.value && list.length === 0 && <Empty reload={sites.reload} />}
        {list.length > 0 && (
          <table className="rows sites-table">
            <thead>
              <tr>
                <th>Site</th>
                <th>Last sweep</th>
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
              {list.map((s, i) => (
                <SiteRow key={s.id} site={s} at={i === row} index={i} open={() => open(s)} reload={sites.reload} />
              ))}
            </tbody>
          </table>
        )}
      </main>
    </>
  );
}

function SiteRow({
  site: s,
  at,
  index,
  open,
  reload,
}: {
  site: SiteSummary;
  at: boolean;
  index: number;
  open: () => void;
  reload: () => void;
}) {
  const [asking, setAsking] = useState(false);
  const [error, setError] = useState<ShownError>();
  const won = s.heroMs !== undefined && s.fixedMs !== undefined ? s.heroMs - s.fixedMs : undefined;
  const slowest = Math.max(...s.heroes, 1);
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
      <td className="right cost big">{s.heroMs === undefined ? '–' : ms(s.heroMs)}</td>
      <td>
        <svg
          width={Math.max(20, s.heroes.length * 12)}
          height={34}
          role="img"
          aria-label={`Hero paint by page, slowest first: ${s.heroes.map(ms).join(', ')}`}
        >
          {s.heroes.map((h, k) => (
            <rect
              key={k}
              x={k * 12}
              y={33 - (h / slowest) * 32}
              width={8}
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
        <button className="link soft" onClick={() => setAsking(true)} aria-label={`Delete ${s.name}`}>
          Delete
        </button>
        {asking && (
          <Suspense>
            <DeleteSite name={s.name} error={error} onCancel={() => setAsking(false)} onDelete={remove} />
          </Suspense>
        )}
      </td>
    </tr>
  );
}

/** Nothing there yet: the demo in one click. */
function Empty({ reload }: { reload: () => void }) {
  const [step, setStep] = useState<string>();
  const [error, setError] = useState<ShownError>();
  const start = async () => {
    setError(undefined);
    setStep('starting');
    try {
      const response = await fetch('/api/demo', { method: 'POST' });
      const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader();
      let rest = '';
      for (;;) {
        const part = await reader?.read();
        if (!part || part.done) break;
        const lines = (rest + part.value).split('\n');
        rest = lines.pop() ?? '';
        for (const line of lines) {
          const value = JSON.parse(line) as { step?: string; error?: ShownError };
          if (value.step) setStep(value.step);
          if (value.error) setError(value.error);
        }
      }
      reload();
    } catch (e) {
      setError(shownError(e));
    }
    setStep(undefined);
  };
  return (
    <div className="empty">
      <h2 className="serif">No site yet</h2>
      <p>Drop a HAR file of a page load here, record one with</p>
      <pre className="mono">npx keen-lens record https://www.fernhollow.example/ -o home.har</pre>
      <p>or open the demo, a botanic garden with faults of every kind.</p>
      <button className="button solid" onClick={() => void start()} disabled={step !== undefined}>
        Start the demo
      </button>
      {step && <Loading what={step} />}
      {error && <ErrorBox error={error} />}
    </div>
  );
}

/** Lets files be dropped anywhere on the page. */
function useDrop(setOver: (over: boolean) => void, add: (files: File[]) => void): void {
  useEffect(() => {
    const enter = (e: DragEvent) => {
      e.preventDefault();
      setOver(true);
    };
    const leave = (e: DragEvent) => {
      if (!e.relatedTarget) setOver(false);
    };
    const drop = (e: DragEvent) => {
      e.preventDefault();
      setOver(false);
      add([...(e.dataTransfer?.files ?? [])]);
    };
    window.addEventListener('dragover', enter);
    window.addEventListener('dragleave', leave);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', enter);
      window.removeEventListener('dragleave', leave);
      window.removeEventListener('drop', drop);
    };
  }, [setOver, add]);
}

export default island(SitesScreen);
