import type { FieldRow } from '../../core/field/fieldData';
import { FieldLine } from '../field/FieldLine';
import { useBench, useBenchAnswer, useBenchDriver, type Bench } from '../state/bench';
import { useForecasts } from '../state/forecasts';
import { useBenchOpen, useSession } from '../state/session';
import { BenchBar } from '../charts/BenchBar';
import { bytes, effectText, count, ms } from '../ui/format';
import { ErrorBox, Kbd, MEANS, Term } from '../ui/parts';
import { useKeys } from '../ui/useKeys';
import { useReorder } from '../ui/useReorder';
import { overlapText } from '../plan/FixTable';
import { ScopePick } from '../plan/ScopePick';
import { To } from '../ui/To';
import { useResource } from '../state/api';
import { useLocation } from '../state/location';
import { proofsPath, type ProofsAnswer } from '../proofs/proofsPath';
import { ProofWarning, says } from '../proofs/ProofWarning';
import { ownRangeText } from '../../core/proof/learn';
import { proofOf } from '../../core/proof/summary';
import { island } from './island';

/** Of the one page that the bench is for; of the origin for an average of pages. */
function fieldOfScope({ scoped, data }: Bench): FieldRow | undefined {
  if (scoped.length !== 1) return data.value?.fieldOfOrigin;
  return data.value?.pages.find((p) => p.row.id === scoped[0]?.captureId)?.field;
}

/** The bench: fixes under consideration and their combined forecast, on every screen. */
export function BenchPanel() {
  const bench = useBench();
  const { setBenchOpen } = useSession();
  const benchOpen = useBenchOpen();
  const fault = useForecasts((s) => s.fault);
  const answer = useBenchAnswer();
  useBenchDriver();
  useKeys({ u: bench.undo });
  const { chosen, groups, visitor } = bench;
  const rowProps = useReorder(chosen, bench.move);
  const toTry = bench.forecast?.staircase.stairs.find((s) => !chosen.includes(s.group.id));
  if (!benchOpen) {
    return (
      <aside className="bench folded">
        <button onClick={() => setBenchOpen(true)} aria-expanded={false}>
          Bench · {count(chosen.length, 'fix', 'fixes')}
          {answer && chosen.length > 0 ? ` · ${effectText(answer.after.lcpMs - answer.now.lcpMs)}` : ''}
        </button>
      </aside>
    );
  }
  return (
    <aside className="bench" aria-label="Bench">
      <div className="between">
        <b>Bench</b>
        <span className="soft">
          {count(chosen.length, 'fix', 'fixes')} · <ScopePick />{' '}
          <button className="link" onClick={() => setBenchOpen(false)} aria-label="Collapse the bench">
            ›
          </button>
        </span>
      </div>
      {answer ? (
        <div aria-live="polite">
          <p className="soft small">
            {bench.scoped.length === 1 ? 'This page' : <Term means={MEANS.average}>Average page</Term>},{' '}
            {visitor.name.toLowerCase()}
          </p>
          <BenchBar
            name={<Term means={MEANS.lcp}>Hero paint (LCP)</Term>}
            label="Hero paint (LCP)"
            now={answer.now.lcpMs}
            after={answer.after.lcpMs}
            range={answer.range?.lcpMs}
            format={ms}
            scale={Math.max(answer.now.lcpMs, answer.after.lcpMs)}
          />
          <BenchBar
            name={<Term means={MEANS.fcp}>First paint (FCP)</Term>}
            label="First paint (FCP)"
            now={answer.now.fcpMs}
            after={answer.after.fcpMs}
            range={answer.range?.fcpMs}
            format={ms}
            scale={Math.max(answer.now.lcpMs, answer.after.lcpMs)}
          />
          <BenchBar
            name={<Term means={MEANS.bytes}>Bytes</Term>}
            label="Bytes"
            now={answer.now.bytes}
            after={answer.after.bytes}
            format={bytes}
            scale={Math.max(answer.now.bytes, answer.after.bytes) * 1.1}
          />
          <FieldLine row={fieldOfScope(bench)} />
          {bench.trust && answer.range && ownRangeText(bench.trust) && (
            <p className="soft small">{ownRangeText(bench.trust)}</p>
          )}
        </div>
      ) : (
        <p className="soft">
          {bench.data.value?.pages.length === 0
            ? 'No page of this sweep has been recorded by a browser: there is nothing to forecast.'
            : 'Forecasting …'}
        </p>
      )}
      {fault && (
        <ErrorBox
          error={{ what: fault, where: 'the forecast of the bench', next: 'Is the server still running?' }}
          retry={bench.data.reload}
        />
      )}
      <ol className="bench-list">
        {chosen.map((id) => {
          const group = groups.find((g) => g.id === id);
          const effect = answer?.groups.find((g) => g.id === id);
          if (!group) return null;
          const overlap = effect && overlapText(effect, bench);
          return (
            <li key={id} {...rowProps(id)}>
              <button
                className="tick on"
                onClick={() => bench.toggle(id)}
                aria-label={`Take ${group.title} off the bench. Alt and arrow up or down move it.`}
                title="Take off the bench; drag, or Alt with the arrows, to move it"
              />
              <span>{group.title}</span>
              <b className={effect && effect.addedMs < -40 ? 'gain' : effect && effect.addedMs > 40 ? 'cost' : 'soft'}>
                {effect ? effectText(effect.addedMs) : '…'}
              </b>
              <small>
                alone {effect ? effectText(effect.aloneMs) : '…'} · {count(group.pages, 'page')}
                {overlap ? ` · ${overlap}` : ''}
                <ProofWarning group={id} />
              </small>
            </li>
          );
        })}
      </ol>
      {chosen.length === 0 && (
        <p className="soft">
          Nothing on the bench. Put a fix on it with <Kbd>b</Kbd> or its button, and see at once what it would change.
        </p>
      )}
      {toTry && toTry.wonMs > 40 && (
        <p className="bench-next">
          Next best: <b>{toTry.group.title}</b>{' '}
          <button className="link" onClick={() => bench.toggle(toTry.group.id)}>
            Put on the bench
          </button>
        </p>
      )}
      {chosen.length > 0 && <BenchProof />}
      <p className="small bench-links">
        <To className="link" to={`${bench.base}/plan`}>
          Plan and export
        </To>
        <To className="link" to={`${bench.base}/trust`}>
          How far can I trust this?
        </To>
      </p>
      <div className="bench-foot">
        {chosen.length > 0 && (
          <button className="link" onClick={() => bench.choose([])}>
            Clear
          </button>
        )}
        {bench.canUndo && (
          <button className="link" onClick={bench.undo}>
            Undo <Kbd>u</Kbd>
          </button>
        )}
      </div>
    </aside>
  );
}

/** What a proof of just these fixes found, and the way to one. */
function BenchProof() {
  const { siteId, base, chosen, visitor } = useBench();
  const { path } = useLocation();
  const found = useResource<ProofsAnswer>(proofsPath(siteId));
  const page = /\/pages\/(\d+)$/.exec(path)?.[1];
  const own = found.value && proofOf(found.value.proofs, chosen, visitor.id);
  return (
    <p className="small bench-proof">
      {own && (
        <>
          Measured on <To to={`${base}/proofs/${own.id}`}>{own.title || own.page}</To>: {effectText(own.lcpMs)}.{' '}
          {says(own)}.{' '}
        </>
      )}
      <To className="put" to={`${base}/proofs${page ? `?page=${page}` : ''}`}>
        {own ? 'Prove again' : 'Prove'}
      </To>
    </p>
  );
}

export default island(BenchPanel);
