import { useEffect, useMemo, useState } from 'react';
import type { Plan } from '../../core/plan/plan';
import type { ComparedAnswer } from '../../workers/benchMessages';
import { PlanCompareChart } from '../charts/PlanCompareChart';
import { useBench } from '../state/bench';
import { bytes, ms, range } from '../ui/format';
import { Loading, HeadUnseen } from '../ui/parts';
import { useWidth } from '../ui/useWidth';

/** Plans beside the bench: where each leads for the same visitor and pages, and which fixes they share. */
export function PlanComparison({ plans }: { plans: readonly Plan[] }) {
  const { visitor, chosen, scoped, groups, compare, ready } = useBench();
  const { ref, width } = useWidth(340);
  const sets = useMemo(
    () => [
      ...(chosen.length > 0 ? [{ key: 'bench', name: 'The bench as it is', ids: chosen }] : []),
      ...plans.map((p) => ({
        key: `plan ${p.id}`,
        name: p.name,
        ids: p.fixes.filter((f) => f.state !== 'dropped').map((f) => f.group),
      })),
    ],
    [plans, chosen],
  );
  const [answers, setAnswers] = useState<{ sets: typeof sets; value: readonly ComparedAnswer[] }>();
  useEffect(() => {
    if (!ready) return;
    let stale = false;
    const within = scoped.map((p) => p.captureId);
    void compare(sets.map((s) => ({ visitor, groups: s.ids, within }))).then(
      (value) => !stale && setAnswers({ sets, value }),
    );
    return () => {
      stale = true;
    };
  }, [compare, ready, sets, visitor, scoped]);
  const value = answers?.sets === sets ? answers.value : undefined;
  const all = groups.filter((g) => sets.some((s) => s.ids.includes(g.id)));
  return (
    <div ref={ref} className="comparison">
      <h2>
        Side by side{' '}
        <span className="soft normal">
          {visitor.name.toLowerCase()}, average of {scoped.length === 1 ? 'one page' : `${scoped.length} pages`}
        </span>
      </h2>
      {!value && <Loading what="Forecasting the plans" />}
      {value && (
        <>
          <PlanCompareChart
            width={width}
            plans={sets.map((s, i) => {
              const a = value[i] as ComparedAnswer;
              return {
                key: s.key,
                name: s.name,
                nowMs: a.now.lcpMs,
                afterMs: a.after.lcpMs,
                range: a.range.lcpMs,
                effort: a.effort,
              };
            })}
          />
          <div className="scroll">
            <table className="rows compare-table">
              <thead>
                <tr>
                  <HeadUnseen>Figure</HeadUnseen>
                  {sets.map((s) => (
                    <th key={s.key} className="right">
                      {s.name}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                <Figures
                  name="Hero paint (LCP)"
                  values={value.map((a) => `${ms(a.after.lcpMs)} (${range(a.range.lcpMs)})`)}
                />
                <Figures
                  name="First paint"
                  values={value.map((a) => `${ms(a.after.fcpMs)} (${range(a.range.fcpMs)})`)}
                />
                <Figures name="Load" values={value.map((a) => ms(a.after.loadMs))} />
                <Figures name="Bytes" values={value.map((a) => bytes(a.after.bytes))} />
                <Figures name="Effort" values={value.map((a) => `about ${a.effort} min`)} />
                {all.map((g) => (
                  <tr key={g.id}>
                    <td>{g.title}</td>
                    {sets.map((s) => (
                      <td key={s.key} className="right">
                        {s.ids.includes(g.id) ? 'in it' : <span className="soft">–</span>}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </>
      )}
    </div>
  );
}

function Figures({ name, values }: { name: string; values: readonly string[] }) {
  return (
    <tr>
      <td className="soft">{name}</td>
      {values.map((v, i) => (
        <td key={i} className="right">
          {v}
        </td>
      ))}
    </tr>
  );
}
