import { useEffect, useState } from 'react';
import { HomeBar } from '../frame/HomeBar';
import { VisitorSwitch } from '../visitors/VisitorSwitch';
import { shownError, useResource, type ShownError } from '../state/api';
import { nextVisitor, useVisitor, useVisitors } from '../state/visitors';
import { setQuery } from '../state/location';
import type { SiteSummary } from '../state/types';
import { ErrorBox, Loading } from '../ui/parts';
import { useKeys } from '../ui/useKeys';
import { AddSite } from './AddSite';
import { ConsoleSnippet } from './ConsoleSnippet';
import { ImportList, useImports } from './imports';
import { island } from '../frame/island';
import { SitesTable } from './SitesTable';

/** How often a list is read again that waits for figures, in ms. */
const PENDING_MS = 3000;

/** Every site; capture files may be dropped anywhere on the page. */
export function SitesScreen() {
  const visitor = useVisitor();
  const visitors = useVisitors();
  const sites = useResource<{ sites: SiteSummary[] }>(`/api/sites?visitor=${visitor.id}`);
  const [into, setInto] = useState<number>();
  const imports = useImports(sites.reload, into);
  const [over, setOver] = useState(false);
  const list = sites.value?.sites ?? [];
  useKeys({ v: () => setQuery({ visitor: nextVisitor(visitors, visitor.id) }) });
  // Figures that are still being worked out come with a later look.
  const pending = list.some((s) => s.pending);
  const { reload } = sites;
  useEffect(() => {
    if (!pending) return undefined;
    const timer = setInterval(reload, PENDING_MS);
    return () => clearInterval(timer);
  }, [pending, reload]);
  useDrop(setOver, imports.add);
  return (
    <>
      <HomeBar>
        <VisitorSwitch value={visitor} onChange={(id) => setQuery({ visitor: id })} />
      </HomeBar>
      <main id="main" tabIndex={-1} className={over ? 'sites over' : 'sites'}>
        <div className="between">
          <h1 className="serif">Sites</h1>
          <label data-needs="auditor" className="button solid">
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
        <p data-needs="auditor" className="soft">
          Or drop captures anywhere on this page: HAR, WARC, MHTML, a saved page with its folder as ZIP, or what a
          console has saved. Cookies, passwords and tokens are removed before anything is stored.{' '}
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
        <ConsoleSnippet />
        <ImportList imports={imports} />
        {sites.error && <ErrorBox error={sites.error} retry={sites.reload} />}
        {!sites.value && sites.loading && <Loading what="Reading sites" />}
        {sites.value && list.length === 0 && <Empty reload={sites.reload} />}
        {list.length > 0 && <SitesTable sites={list} reload={sites.reload} visitorId={visitor.id} />}
      </main>
    </>
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
      <pre className="mono" tabIndex={0}>
        npx keen-lens record https://www.fernhollow.example/ -o home.har
      </pre>
      <p>or open the demo, a botanic garden with faults of every kind.</p>
      <button data-needs="auditor" className="button solid" onClick={() => void start()} disabled={step !== undefined}>
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
