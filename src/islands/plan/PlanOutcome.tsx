import { useState } from 'react';
import type { Plan } from '../../core/plan/plan';
import { changeText } from '../../core/proof/words';
import { OUTCOME_WORDS, type FixOutcome, type OutcomeFinding } from '../../core/proof/outcomeWords';
import type { OutcomeRow } from '../../engine/store/outcomes';
import { JobLine, useSiteJob } from '../sweep/SiteJob';
import { ask, shownError, useResource, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { count, dayTime, effectText, ms } from '../ui/format';
import { ErrorBox } from '../ui/parts';

/** What became of the fixes of a plan that are said to be done: until they were looked at they are to be verified. */
export function PlanOutcome({ siteId, plan }: { siteId: number; plan: Plan }) {
  const { sweepId } = useBench();
  const path = `/api/sites/${siteId}/plans/${plan.id}/outcomes`;
  const found = useResource<readonly OutcomeRow[]>(path);
  const job = useSiteJob(siteId, 'check', found.reload);
  const [error, setError] = useState<ShownError>();
  const done = plan.fixes.filter((f) => f.state === 'done');
  if (done.length === 0) return null;
  const check = () => {
    setError(undefined);
    ask(path, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ sweep: sweepId }),
    }).catch((e: unknown) => setError(shownError(e)));
  };
  const [latest] = found.value ?? [];
  const seen = new Set(latest?.outcome.fixes.map((f) => f.group));
  const unseen = done.filter((f) => !seen.has(f.group)).length;
  return (
    <section aria-label="Outcome" className="plan-outcome">
      <h3 className="serif">
        {latest
          ? `“${plan.name}”: promised ${changeText(latest.outcome.promisedMs)}, measured ${changeText(latest.outcome.measuredMs)}`
          : `“${plan.name}”: ${count(done.length, 'fix is', 'fixes are')} said to be done and to be verified`}
      </h3>
      {job ? (
        <JobLine job={job} />
      ) : (
        <p className="tools">
          <button data-needs="fixer" type="button" className="put" onClick={check}>
            Check now
          </button>
          <span className="soft">
            Records their pages again, as phone and desktop, with an empty cache.
            {latest &&
              unseen > 0 &&
              ` ${count(unseen, 'fix was', 'fixes were')} set to done since and not looked at yet.`}
          </span>
        </p>
      )}
      {error && <ErrorBox error={error} />}
      {found.error && <ErrorBox error={found.error} retry={found.reload} />}
      {latest && <Latest row={latest} />}
      {found.value && found.value.length > 1 && <History rows={found.value} />}
    </section>
  );
}

function Latest({ row }: { row: OutcomeRow }) {
  const { fixes, pages } = row.outcome;
  const fresh = pages.flatMap((p) => p.fresh);
  const slower = pages.filter((p) => p.waits.afterMs - p.waits.beforeMs > 100);
  return (
    <>
      <p className="soft small">
        {row.by === 'check' ? 'Checked' : 'Seen by the sweep of'} {dayTime(row.lookedAt)}. Both recordings are simulated
        for the same visitor with the same server waits; what else changed on these pages counts too.
      </p>
      <div className="scroll">
        <table className="rows">
          <thead>
            <tr>
              <th>Fix</th>
              <th>Outcome</th>
              <th className="right">Findings gone</th>
              <th>Still there or in their place</th>
            </tr>
          </thead>
          <tbody>
            {fixes.map((f) => (
              <tr key={f.group}>
                <td>{f.title}</td>
                <td className={isGood(f) ? 'gain' : 'cost'}>{OUTCOME_WORDS[f.verdict]}</td>
                <td className="right">{f.gone}</td>
                <td className="small">
                  <Places findings={f.still} />
                  {f.replaced.length > 0 && (
                    <div>
                      replaced by <Places findings={f.replaced} />
                    </div>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {fresh.length > 0 && (
        <details>
          <summary>{count(fresh.length, 'new finding')} on these pages</summary>
          <ul className="small">
            {[...new Map(fresh.map((f) => [f.id, f])).values()].slice(0, 40).map((f) => (
              <li key={f.id}>
                {f.title} <span className="soft">{f.place ?? f.target}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
      {slower.length > 0 && (
        <p className="small cost">
          The server took longer than before on {count(slower.length, 'page')}, up to{' '}
          {ms(Math.max(...slower.map((p) => p.waits.afterMs)))}; that is not counted against the fixes.
        </p>
      )}
    </>
  );
}

const isGood = (f: FixOutcome) => f.verdict === 'kept' || f.verdict === 'more';

function Places({ findings }: { findings: readonly OutcomeFinding[] }) {
  return (
    <>
      {findings.slice(0, 3).map((f) => (
        <div key={f.id}>
          {f.title} <span className="soft mono">{f.place ?? f.target}</span>
        </div>
      ))}
      {findings.length > 3 && <div className="soft">and {findings.length - 3} more</div>}
    </>
  );
}

/** Promised and kept sums over time. */
function History({ rows }: { rows: readonly OutcomeRow[] }) {
  return (
    <table className="rows">
      <caption>Promised and measured over time</caption>
      <thead>
        <tr>
          <th>Looked at</th>
          <th className="right">Promised</th>
          <th className="right">Measured</th>
          <th className="right">Fixes that kept it</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <tr key={r.id}>
            <td>{dayTime(r.lookedAt)}</td>
            <td className="right">{effectText(r.outcome.promisedMs)}</td>
            <td className="right">{effectText(r.outcome.measuredMs)}</td>
            <td className="right">
              {r.outcome.fixes.filter(isGood).length} of {r.outcome.fixes.length}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
