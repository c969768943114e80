import { useState } from 'react';
import type { TargetAnswer, TargetFigure } from '../../workers/benchMessages';
import { useBench } from '../state/bench';
import { setQuery, useLocation } from '../state/location';
import { count, ms } from '../ui/format';
import { Loading } from '../ui/parts';

const FIGURES: Readonly<Record<TargetFigure, { name: string; good: number }>> = {
  lcpMs: { name: 'Hero paint (LCP)', good: 2.5 },
  fcpMs: { name: 'First paint (FCP)', good: 1.8 },
};

/** Finds the smallest set of fixes that brings a figure under a target, or comes nearest to it. */
export function TargetFinder() {
  const bench = useBench();
  const { query } = useLocation();
  const figure: TargetFigure = query.get('figure') === 'fcp' ? 'fcpMs' : 'lcpMs';
  const seconds = Number(query.get('target')) || FIGURES[figure].good;
  const [typed, setTyped] = useState(String(seconds));
  const [found, setFound] = useState<{ key: string; answer: TargetAnswer }>();
  const [busy, setBusy] = useState(false);
  // An answer is for one visitor, scope, figure and target: another one is never shown in its place.
  const key = `${bench.visitor.id}|${bench.scoped.map((p) => p.captureId).join()}|${figure}|${seconds}`;
  const answer = found?.key === key ? found.answer : undefined;
  const wanted = Number(typed.replace(',', '.'));
  const valid = Number.isFinite(wanted) && wanted > 0 && wanted <= 60;
  const find = () => {
    if (!valid) return;
    const nextKey = `${bench.visitor.id}|${bench.scoped.map((p) => p.captureId).join()}|${figure}|${wanted}`;
    setQuery({ target: String(wanted) });
    setBusy(true);
    void bench.target(figure, wanted * 1000).then((a) => (setFound({ key: nextKey, answer: a }), setBusy(false)));
  };
  return (
    <section aria-label="Target" className="target">
      <form className="tools" onSubmit={(e) => (e.preventDefault(), find())}>
        <label>
          Target:{' '}
          <select
            value={figure}
            aria-label="Figure"
            onChange={(e) => {
              const next = e.target.value as TargetFigure;
              setTyped(String(FIGURES[next].good));
              setQuery({ figure: next === 'fcpMs' ? 'fcp' : null, target: String(FIGURES[next].good) });
            }}
          >
            {(Object.keys(FIGURES) as TargetFigure[]).map((f) => (
              <option key={f} value={f}>
                {FIGURES[f].name}
              </option>
            ))}
          </select>{' '}
          under{' '}
          <input
            className="seconds"
            inputMode="decimal"
            aria-label="Target in seconds"
            aria-invalid={!valid}
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
          />{' '}
          s for {bench.visitor.name.toLowerCase()}
        </label>
        <button className="put" disabled={!valid || !bench.ready || busy}>
          Find the fewest fixes
        </button>
        {!valid && <span className="cost">Seconds go from above 0 to 60.</span>}
      </form>
      {busy && <Loading what="Trying sets of fixes" />}
      {answer && !busy && <Found answer={answer} seconds={seconds} />}
    </section>
  );
}

function Found({ answer, seconds }: { answer: TargetAnswer; seconds: number }) {
  const bench = useBench();
  const titles = answer.ids.map((id) => bench.groups.find((g) => g.id === id)?.title ?? id);
  const missing = answer.ids.filter((id) => !bench.chosen.includes(id));
  const onBench = answer.ids.length > 0 && missing.length === 0 && bench.chosen.length === answer.ids.length;
  if (answer.ids.length === 0)
    return (
      <p role="status">
        {answer.reached
          ? `Already met: ${ms(answer.nowMs)} now.`
          : `No known fix comes closer than ${ms(answer.nowMs)}.`}
      </p>
    );
  return (
    <div role="status">
      <p>
        {answer.reached ? (
          <>
            <b>{count(answer.ids.length, 'fix', 'fixes')}</b> {answer.ids.length === 1 ? 'gets' : 'get'} there:{' '}
            {ms(answer.nowMs)} → <b className="gain">{ms(answer.valueMs)}</b>, about {answer.effort} min.
          </>
        ) : (
          <>
            {seconds} s is out of reach by the fixes known to us. Nearest: {ms(answer.nowMs)} →{' '}
            <b className="gain">{ms(answer.valueMs)}</b> with {count(answer.ids.length, 'fix', 'fixes')}, about{' '}
            {answer.effort} min.
          </>
        )}
      </p>
      {!onBench && (
        <ol className="target-list">
          {titles.map((t, i) => (
            <li key={answer.ids[i]}>
              {t}
              {bench.chosen.includes(answer.ids[i] ?? '') && <span className="soft"> (on the bench)</span>}
            </li>
          ))}
        </ol>
      )}
      <p className="tools">
        {missing.length > 0 && (
          <button className="put" onClick={() => bench.choose([...bench.chosen, ...missing])}>
            Put {missing.length === answer.ids.length ? 'them' : `the remaining ${missing.length}`} on the bench
          </button>
        )}
        {!onBench && bench.chosen.length > 0 && (
          <button className="link" onClick={() => bench.choose(answer.ids)}>
            Use only these
          </button>
        )}
        {onBench && <span className="soft">Only these are on the bench.</span>}
      </p>
    </div>
  );
}
