import { useState } from 'react';
import { isTold, KNOBS, type Fitted, type Knob, type P75Change } from '../../core/field/mix';
import type { FittedVisitors } from '../../engine/services/siteField';
import { shownError, useResource, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { saveVisitor, useOwnVisitors } from '../state/visitors';
import { count, ms, range } from '../ui/format';
import { Fold } from '../ui/Fields';
import { ErrorBox, Loading } from '../ui/parts';
import type { FieldAnswer } from './fieldPath';

const NAMES: Readonly<Record<Knob, string>> = {
  rttMs: 'round trip',
  downKbps: 'rate',
  cpuFactor: 'processor factor',
  spread: 'spread of the three',
};

/** Visitors whose loads come to the site's own p75s, and the p75 with what is on the bench. */
export function FittedView({ answer, sweepId, reload }: { answer: FieldAnswer; sweepId: number; reload: () => void }) {
  const { siteId, chosen, setVisitor, visitor } = useBench();
  const own = useOwnVisitors();
  const [wanted, setWanted] = useState(answer.fit !== undefined);
  const [error, setError] = useState<ShownError>();
  const path = `/api/sites/${siteId}/field/fit?sweep=${sweepId}&device=${answer.device}`;
  const asked = useResource<FittedVisitors>(wanted && !answer.fit ? path : undefined);
  const fit = answer.fit ?? asked.value;
  if (!fit)
    return (
      <section aria-label="Fitted visitors">
        <h2>Your visitors</h2>
        {asked.error && <ErrorBox error={asked.error} retry={asked.reload} />}
        {wanted && asked.loading ? (
          <Loading what="Looking for the visitors whose loads come to these figures" />
        ) : (
          <p className="tools">
            <button className="button solid" onClick={() => setWanted(true)}>
              Fit visitors to these figures
            </button>
            <span className="soft">
              {count(answer.fittable, 'page')} with figures. Takes some seconds; then forecasts can be for the p75 of
              those who really come.
            </span>
          </p>
        )}
      </section>
    );
  const use = () => {
    setError(undefined);
    const known = own?.find((v) => v.name === fit.name);
    saveVisitor({ id: known?.id, name: fit.name, spec: fit.spec })
      .then(({ spec }) => setVisitor(spec))
      .then(reload)
      .catch((e: unknown) => setError(shownError(e)));
  };
  return (
    <section aria-label="Fitted visitors">
      <h2>Your visitors</h2>
      <p className="serif-text">{sentenceOf(fit)}</p>
      <Gain path={path} groups={chosen} />
      <p className="tools">
        {visitor.id === fit.spec ? (
          <span className="soft">Every figure is for these visitors now: their p75.</span>
        ) : (
          <button className="button solid" onClick={use}>
            Give every figure for these visitors
          </button>
        )}
      </p>
      {error && <ErrorBox error={error} />}
      <Fold title="How well this is known">
        <ul>
          {KNOBS.map((k) => (
            <li key={k}>{spanText(fit, k)}</li>
          ))}
        </ul>
        <table className="plain">
          <caption>Each figure as it came and as the fitted visitors have it.</caption>
          <thead>
            <tr>
              <th>Page</th>
              <th>Figure</th>
              <th className="right">Field</th>
              <th className="right">Fitted</th>
              <th className="right">Off by</th>
            </tr>
          </thead>
          <tbody>
            {fit.pages.flatMap((p) =>
              p.metrics.map((m) => (
                <tr key={p.page + m.metric}>
                  <td>{p.page}</td>
                  <td>{m.metric.slice(0, -2).toUpperCase()}</td>
                  <td className="right">{ms(m.field)}</td>
                  <td className="right">{ms(m.model)}</td>
                  <td className="right">{Math.round((m.model / m.field - 1) * 100)} %</td>
                </tr>
              )),
            )}
          </tbody>
        </table>
      </Fold>
    </section>
  );
}

/** A value of a knob with its unit. */
function knobText(knob: Knob, value: number): string {
  if (knob === 'rttMs') return `${Math.round(value)} ms`;
  if (knob === 'downKbps') return `${value >= 10_000 ? Math.round(value / 1000) : (value / 1000).toFixed(1)} Mbit/s`;
  return value.toFixed(1);
}

function sentenceOf({ p75Visitor: v, mix, error }: FittedVisitors): string {
  return `Three of four visits are at least as good as ${knobText('rttMs', v.rttMs)} round trip, ${knobText('downKbps', v.downKbps)} and a processor of factor ${knobText('cpuFactor', v.cpuFactor)}. The middle one has ${knobText('rttMs', mix.rttMs)} and ${knobText('downKbps', mix.downKbps)}. Their loads come to the field figures within ${Math.round(error * 100)} %.`;
}

/** A value with how far it could be turned: what spans more than about a fifth to either side is not told by the data. */
function spanText(fit: Fitted, knob: Knob): string {
  const [low, high] = fit.spans[knob];
  const at = knobText(knob, fit.mix[knob]);
  if (!isTold(fit.spans[knob]))
    return `${NAMES[knob]} ${at}: these figures do not tell it. Anything from ${knobText(knob, low)} to ${knobText(knob, high)} fits about as well.`;
  return `${NAMES[knob]} ${at}, between ${knobText(knob, low)} and ${knobText(knob, high)}.`;
}

/** p75 of all visits now, and with the fixes on the bench. */
function Gain({ path, groups }: { path: string; groups: readonly string[] }) {
  const change = useResource<P75Change>(`${path}&groups=${encodeURIComponent(groups.join(','))}`);
  if (change.error) return <ErrorBox error={change.error} retry={change.reload} />;
  const c = change.value;
  if (!c) return <Loading what="Working out the p75" />;
  return (
    <p className="serif-text" aria-busy={change.loading}>
      {groups.length === 0 ? (
        <>
          p75 of hero paint over all visits: <span className="cost">{ms(c.beforeMs)}</span>.{' '}
          <span className="soft">Put fixes on the bench to see what they make of it.</span>
        </>
      ) : (
        <>
          p75 of hero paint over all visits with {count(groups.length, 'fix', 'fixes')} of the bench:{' '}
          <span className="cost">{ms(c.beforeMs)}</span> to <span className="gain">{ms(c.afterMs)}</span> (
          {range(c.range)}).
        </>
      )}
    </p>
  );
}
