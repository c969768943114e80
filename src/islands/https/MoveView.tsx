import { useRef, useState } from 'react';
import type { MoveStep, StepProof } from '../../core/move/steps';
import type { MoveReport } from '../../engine/services/moveFiles';
import type { MoveStepRow } from '../../engine/store/moveSteps';
import { ask, shownError, useResource, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { Editable } from '../ui/Editable';
import { count, day, dayTime } from '../ui/format';
import { ErrorBox, Loading } from '../ui/parts';
import { ProbeEntrances } from './ProbeEntrances';
import { JobLine, useSiteJob } from '../sweep/SiteJob';

type ShownStep = Omit<MoveStep, 'proof'> & {
  readonly noted: MoveStepRow | null;
  readonly proof: StepProof | null;
  readonly visible: boolean;
};
interface MoveAnswer {
  readonly steps: readonly ShownStep[];
  readonly runs: readonly { readonly id: number; readonly title: string; readonly endedAt: string | null }[];
}

const PHASES = ['prepare', 'moving day', 'after'] as const;
const STATES: Readonly<Record<MoveStepRow['state'], string>> = {
  open: 'open',
  doing: 'in progress',
  done: 'done',
  skipped: 'not needed',
};

/** The move to https: steps with owner and day, proof where it can be seen, and the replacement in files. */
export default function MoveView() {
  const { siteId } = useBench();
  const found = useResource<MoveAnswer>(`/api/sites/${siteId}/move`);
  const [error, setError] = useState<ShownError>();
  const note = (step: ShownStep, change: Partial<MoveStepRow>) => {
    ask(`/api/sites/${siteId}/move`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ step: step.id, ...change }),
    })
      .then(found.reload)
      .catch((e: unknown) => setError(shownError(e)));
  };
  if (found.error) return <ErrorBox error={found.error} retry={found.reload} />;
  if (!found.value) return <Loading what="Reading the plan" />;
  const { steps, runs } = found.value;
  const done = steps.filter((s) => s.noted?.state === 'done' || s.noted?.state === 'skipped' || s.proof?.holds).length;
  const next = steps.find((s) => s.noted?.state !== 'done' && s.noted?.state !== 'skipped' && !s.proof?.holds);
  return (
    <section aria-label="Move to HTTPS">
      <p className="serif big">
        {done} of {steps.length} steps of the move are done
        {next ? `; next: ${next.title.charAt(0).toLowerCase()}${next.title.slice(1)}.` : '.'}
      </p>
      <ProbeEntrances siteId={siteId} askedAt="before" onDone={found.reload} />
      {error && <ErrorBox error={error} />}
      {PHASES.map((phase) => (
        <div className="scroll-x" key={phase}>
          <table className="grid move-steps">
            <caption>{phase === 'prepare' ? 'Prepare' : phase === 'moving day' ? 'Moving day' : 'After'}</caption>
            <thead>
              <tr>
                <th>Step</th>
                <th>What can be seen</th>
                <th>State</th>
                <th>Owner</th>
                <th>Due</th>
              </tr>
            </thead>
            <tbody>
              {steps
                .filter((s) => s.phase === phase)
                .map((s) => (
                  <tr key={s.id}>
                    <td>
                      <b>{s.title}</b>
                      <div className="soft small">{s.how}</div>
                      {s.noted?.note && <div className="small">{s.noted.note}</div>}
                    </td>
                    <td className={s.proof ? (s.proof.holds ? 'gain' : 'cost') : 'soft'}>
                      {s.proof
                        ? `${s.proof.holds ? '✓' : '✗'} ${s.proof.says}`
                        : s.visible
                          ? 'Not probed yet.'
                          : 'Only people can tell.'}
                    </td>
                    <td>
                      <Editable needs="fixer" says={STATES[s.noted?.state ?? 'open']}>
                        <select
                          aria-label={`State of: ${s.title}`}
                          value={s.noted?.state ?? 'open'}
                          onChange={(e) => note(s, { state: e.target.value as MoveStepRow['state'] })}
                        >
                          {Object.entries(STATES).map(([id, name]) => (
                            <option key={id} value={id}>
                              {name}
                            </option>
                          ))}
                        </select>
                      </Editable>
                    </td>
                    <td>
                      <Editable needs="fixer" says={s.noted?.owner}>
                        <input
                          className="narrow"
                          aria-label={`Owner of: ${s.title}`}
                          defaultValue={s.noted?.owner ?? ''}
                          onBlur={(e) =>
                            e.target.value !== (s.noted?.owner ?? '') && note(s, { owner: e.target.value })
                          }
                        />
                      </Editable>
                    </td>
                    <td>
                      <Editable needs="fixer" says={s.noted?.due && day(s.noted.due)}>
                        <input
                          type="date"
                          aria-label={`Due day of: ${s.title}`}
                          value={s.noted?.due ?? ''}
                          onChange={(e) => note(s, { due: e.target.value || null })}
                        />
                      </Editable>
                    </td>
                  </tr>
                ))}
            </tbody>
          </table>
        </div>
      ))}
      <Replacement siteId={siteId} runs={runs} onDone={found.reload} />
      <p>
        <a className="export" href={`/api/sites/${siteId}/move/sitemap`}>
          Download the https sitemap
        </a>
      </p>
    </section>
  );
}

function Replacement({ siteId, runs, onDone }: { siteId: number; runs: MoveAnswer['runs']; onDone: () => void }) {
  const { site } = useBench();
  const input = useRef<HTMLInputElement>(null);
  const home = site.value?.home ?? '';
  const [hosts, setHosts] = useState(() => (URL.canParse(home) ? new URL(home).hostname.replace(/^www\./, '') : ''));
  const [one, setOne] = useState(false);
  const [file, setFile] = useState<File>();
  const [sending, setSending] = useState(false);
  const [error, setError] = useState<ShownError>();
  const [shown, setShown] = useState<number>();
  const job = useSiteJob(siteId, 'move', () => {
    setShown(undefined);
    onDone();
  });
  const send = (dry: boolean) => {
    if (!file) return;
    setError(undefined);
    setSending(true);
    const origin = URL.canParse(home) ? `https://${new URL(home).host}` : 'https';
    const q = new URLSearchParams({ from: hosts, to: one ? origin : 'https', dry: dry ? 'yes' : 'no' });
    ask(`/api/sites/${siteId}/move/files?${q}`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream', 'x-file-name': encodeURIComponent(file.name) },
      body: file,
    })
      .catch((e: unknown) => setError(shownError(e)))
      .finally(() => setSending(false));
  };
  const open = shown ?? runs[0]?.id;
  const report = useResource<MoveReport & { fileName: string }>(
    open === undefined ? undefined : `/api/jobs/${open}/move`,
  );
  return (
    <section aria-label="Replacement in files">
      <h2>Replace addresses in files or the database</h2>
      <p className="soft">
        A zip of the site’s files or a dump of its database goes in. A dry run counts by form and file; the move writes
        a changed copy, a diff and an undo map. The original stays as it is.
      </p>
      <div className="tools">
        <button className="put" onClick={() => input.current?.click()}>
          {file ? file.name : 'Choose a zip or a dump'}
        </button>
        <input
          ref={input}
          type="file"
          hidden
          aria-label="Files of the site"
          accept=".zip,.sql,.gz,.html,.css,.js,.txt,.xml,.json"
          onChange={(e) => setFile(e.target.files?.[0])}
        />
        <label className="soft">
          Hosts <input aria-label="Hosts that move" value={hosts} onChange={(e) => setHosts(e.target.value)} />
        </label>
        <label className="soft">
          <input type="checkbox" checked={one} onChange={(e) => setOne(e.target.checked)} /> all to the home’s host
        </label>
        <button data-needs="auditor" className="put" disabled={!file || sending || !!job} onClick={() => send(true)}>
          Dry run
        </button>
        <button data-needs="auditor" className="put" disabled={!file || sending || !!job} onClick={() => send(false)}>
          Write a changed copy
        </button>
      </div>
      {sending && <Loading what="Sending the file" />}
      {job && <JobLine job={job} />}
      {error && <ErrorBox error={error} />}
      {runs.length > 1 && (
        <p className="tools">
          <label className="soft">
            Result of{' '}
            <select value={open} onChange={(e) => setShown(Number(e.target.value))}>
              {runs.map((r) => (
                <option key={r.id} value={r.id}>
                  {r.title}, {r.endedAt ? dayTime(r.endedAt) : ''}
                </option>
              ))}
            </select>
          </label>
        </p>
      )}
      {report.value && open !== undefined && <Result report={report.value} job={open} />}
    </section>
  );
}

function Result({ report, job }: { report: MoveReport & { fileName: string }; job: number }) {
  const { totals } = report;
  const refused = report.places.filter((p) => p.refused !== null);
  return (
    <>
      <p className="serif big">
        {report.fileName}: {count(totals.changes, 'address', 'addresses')} {report.dryRun ? 'would change' : 'changed'},{' '}
        {totals.refused.toLocaleString('en-GB')} refused, {count(totals.lengths, 'length')} of serialised strings
        adjusted.
      </p>
      {!report.dryRun && (
        <p className="tools">
          {(['copy', 'patch', 'undo'] as const).map((f) => (
            <a key={f} className="export" href={`/api/jobs/${job}/move?file=${f}`}>
              {f === 'copy' ? 'Changed copy' : f === 'patch' ? 'Diff' : 'Undo map'}
            </a>
          ))}
        </p>
      )}
      <ul className="coverage-legend">
        {Object.entries(totals.forms)
          .filter(([, n]) => n > 0)
          .map(([form, n]) => (
            <li key={form}>
              {n.toLocaleString('en-GB')} <span className="mono">{form}</span>
            </li>
          ))}
      </ul>
      {report.files.length > 0 && (
        <table className="grid">
          <thead>
            <tr>
              <th>File</th>
              <th className="right">Changes</th>
              <th className="right">Refused</th>
            </tr>
          </thead>
          <tbody>
            {report.files.slice(0, 50).map((f) => (
              <tr key={f.path}>
                <td className="mono break">
                  {f.path}
                  {f.brokenLengths > 0 && (
                    <span className="cost"> {count(f.brokenLengths, 'serialised string')} damaged before</span>
                  )}
                </td>
                <td className="right">{f.changes.toLocaleString('en-GB')}</td>
                <td className="right">{f.refused.toLocaleString('en-GB')}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {(refused.length > 0 || report.places.length > 0) && (
        <details>
          <summary>
            Each place ({count(report.places.length, 'place')} shown
            {report.placesLeftOut > 0 ? `, ${report.placesLeftOut.toLocaleString('en-GB')} more counted` : ''})
          </summary>
          <ul className="mono small">
            {[...refused, ...report.places.filter((p) => p.refused === null)].slice(0, 200).map((p, i) => (
              <li key={i}>
                {p.path}:{p.line}:{p.column}{' '}
                {p.refused ? (
                  <span className="cost">refused: {p.refused}</span>
                ) : (
                  <span className="gain">{p.after}</span>
                )}
                <div className="soft break">{p.excerpt}</div>
              </li>
            ))}
          </ul>
        </details>
      )}
      {report.notExamined.length > 0 && (
        <details>
          <summary>Not examined: {count(report.notExamined.length, 'file')}</summary>
          <ul className="small">
            {report.notExamined.slice(0, 200).map((n) => (
              <li key={n.path}>
                <span className="mono">{n.path}</span>: {n.why}
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}
