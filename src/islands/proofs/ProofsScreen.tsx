import { useState } from 'react';
import { proofOf, type ProofSummary } from '../../core/proof/summary';
import { RUNS } from '../../core/proof/proof';
import { JobLine, useSiteJob } from '../sweep/SiteJob';
import { island } from '../frame/island';
import { ask, shownError, useResource, type ShownError } from '../state/api';
import type { BenchAnswer } from '../../workers/benchMessages';
import { useBench, useBenchAnswer, type BenchPage } from '../state/bench';
import { useLocation } from '../state/location';
import { count, dayTime, effectText } from '../ui/format';
import { ErrorBox, HeadUnseen, Loading } from '../ui/parts';
import { To } from '../ui/To';
import { says } from './ProofWarning';
import { proofsPath, type ProofsAnswer } from './proofsPath';

/** Forecasts compared with a real browser: a new one of the bench, and what earlier ones found. */
export function ProofsScreen({ siteId }: { siteId: number }) {
  const found = useResource<ProofsAnswer>(proofsPath(siteId));
  const job = useSiteJob(siteId, 'proof', found.reload);
  return (
    <>
      <h1 className="serif">
        <Sentence proofs={found.value?.proofs} />
      </h1>
      {job ? <JobLine job={job} /> : <StartProof siteId={siteId} />}
      {found.error && <ErrorBox error={found.error} retry={found.reload} />}
      {!found.value && !found.error && <Loading what="Reading proofs" />}
      {found.value && found.value.proofs.length > 0 && <ProofTable proofs={found.value.proofs} onGone={found.reload} />}
    </>
  );
}

function Sentence({ proofs }: { proofs?: readonly ProofSummary[] }) {
  const bench = useBench();
  const own = proofs && proofOf(proofs, bench.chosen, bench.visitor.id);
  if (own) return <>{own.text}</>;
  if (!proofs || proofs.length === 0)
    return <>No forecast of this site has been proved yet: a real browser on this machine can do it in two minutes.</>;
  const held = proofs.filter((p) => p.verdict !== 'less').length;
  return (
    <>
      {held} of {count(proofs.length, 'proof')} measured at least what was promised.
    </>
  );
}

/** What is to be proved, on which pages, and how often. */
function StartProof({ siteId }: { siteId: number }) {
  const bench = useBench();
  const { query } = useLocation();
  const [where, setWhere] = useState<'one' | 'templates' | 'scope'>('one');
  const [page, setPage] = useState(Number(query.get('page')) || 0);
  const [runs, setRuns] = useState(0);
  const [error, setError] = useState<ShownError>();
  const answer = useBenchAnswer();
  const { chosen, groups, scoped, visitor, sweepId } = bench;
  const titles = chosen.map((id) => groups.find((g) => g.id === id)?.title ?? id);
  const pages = scoped;
  const one = pages.find((p) => p.captureId === page) ?? gainsMost(pages, answer);
  const templates = [...new Map(pages.map((p) => [p.template?.id ?? p.page, p])).values()];
  const on = where === 'one' ? (one ? [one] : []) : where === 'templates' ? templates : pages;
  if (chosen.length === 0)
    return (
      <p className="soft">
        Put fixes on the bench, then prove them here: the captured page is loaded in a real browser, without and with
        them, from servers on this machine that answer as recorded.
      </p>
    );
  const start = () => {
    setError(undefined);
    ask(proofsPath(siteId), {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        sweep: sweepId,
        captures: on.map((p) => p.captureId),
        groups: chosen,
        visitor: visitor.id,
        visitorName: visitor.name,
        ...(runs > 0 && { runs }),
      }),
    }).catch((e: unknown) => setError(shownError(e)));
  };
  return (
    <form
      data-needs="auditor"
      className="drop-field prove-form"
      onSubmit={(e) => {
        e.preventDefault();
        start();
      }}
    >
      <p>
        To be proved for <b>{visitor.name}</b>: {titles.join('; ')}.
      </p>
      <p className="tools">
        <label>
          On{' '}
          <select value={where} onChange={(e) => setWhere(e.target.value as typeof where)}>
            <option value="one">one page</option>
            {templates.length < pages.length && (
              <option value="templates">one page of each template ({templates.length})</option>
            )}
            {pages.length > 1 && <option value="scope">every page of the bench ({pages.length})</option>}
          </select>
        </label>
        {where === 'one' && (
          <label>
            which{' '}
            <select className="scope" value={one?.captureId} onChange={(e) => setPage(Number(e.target.value))}>
              {pages.map((p) => (
                <option key={p.captureId} value={p.captureId}>
                  {p.title || p.page}
                </option>
              ))}
            </select>
          </label>
        )}
        <label>
          Runs of each side{' '}
          <select value={runs} onChange={(e) => setRuns(Number(e.target.value))}>
            <option value={0}>
              as many as it takes ({RUNS.least} to {RUNS.most})
            </option>
            {[3, 5, 9, 15].map((n) => (
              <option key={n}>{n}</option>
            ))}
          </select>
        </label>
        <button className="put">Prove</button>
      </p>
      <p className="soft small">
        {on.length > 1 ? `About ${count(on.length * 2, 'minute')}` : 'One to two minutes'}; leave the machine alone
        meanwhile: other work makes loads slower.
      </p>
      {error && <ErrorBox error={error} />}
    </form>
  );
}

/** The page that the bench wins most on, by forecast. */
function gainsMost(pages: readonly BenchPage[], answer: BenchAnswer | undefined): BenchPage | undefined {
  const gain = (p: BenchPage) => {
    const own = answer?.pages.find((o) => o.captureId === p.captureId);
    return own ? own.nowMs - own.afterMs : 0;
  };
  return [...pages].sort((a, b) => gain(b) - gain(a))[0];
}

function ProofTable({ proofs, onGone }: { proofs: readonly ProofSummary[]; onGone: () => void }) {
  const { base } = useBench();
  const [error, setError] = useState<ShownError>();
  const remove = (id: number) => {
    ask(`/api/proofs/${id}`, { method: 'DELETE' })
      .then(onGone)
      .catch((e: unknown) => setError(shownError(e)));
  };
  return (
    <section aria-label="Proofs">
      <h2 className="serif">Proofs so far</h2>
      {error && <ErrorBox error={error} />}
      <div className="scroll">
        <table className="rows">
          <thead>
            <tr>
              <th>Page</th>
              <th>Fixes</th>
              <th>Visitor</th>
              <th className="right">Hero paint (LCP) measured</th>
              <th>What it says</th>
              <th>When</th>
              <HeadUnseen>Delete</HeadUnseen>
            </tr>
          </thead>
          <tbody>
            {proofs.map((p) => (
              <tr key={p.id}>
                <td>
                  <To to={`${base}/proofs/${p.id}`}>{p.title || p.page}</To>
                </td>
                <td title={p.groups.map((g) => g.title).join('; ')}>
                  {p.groups.length === 1 ? p.groups[0]?.title : count(p.groups.length, 'fix', 'fixes')}
                </td>
                <td>{p.visitorName}</td>
                <td className={`right ${p.lcpMs < -40 ? 'gain' : p.lcpMs > 40 ? 'cost' : 'soft'}`}>
                  {effectText(p.lcpMs)}
                </td>
                <td>{says(p)}</td>
                <td className="soft">{dayTime(p.provedAt)}</td>
                <td>
                  <button
                    data-needs="auditor"
                    className="link soft"
                    aria-label={`Delete the proof of ${p.title}`}
                    onClick={() => remove(p.id)}
                  >
                    ×
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

export default island(ProofsScreen);
