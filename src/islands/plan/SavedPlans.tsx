import { useState } from 'react';
import type { PlanConflict, PlanParts } from '../../core/plan/mergePlans';
import { parseScope, scopeText, type Plan } from '../../core/plan/plan';
import { ask, shownError, useResource, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { NO_DETAILS, usePlanDraft } from '../state/planDraft';
import { setQuery, useLocation } from '../state/location';
import { send } from '../state/send';
import { count, dayTime } from '../ui/format';
import { ErrorBox, Loading, HeadUnseen } from '../ui/parts';
import { UndoNotice, useUndo } from '../ui/UndoNotice';
import { PlanComparison } from './PlanComparison';
import { PlanOutcome } from './PlanOutcome';
import { conflictWords, usePlanInCommon } from './planInCommon';

/** The plans of the site: saved, opened, compared, deleted. */
export function SavedPlans({ siteId }: { siteId: number }) {
  const bench = useBench();
  const { query } = useLocation();
  const { bySite, take } = usePlanDraft();
  const path = `/api/sites/${siteId}/plans`;
  const plans = useResource<readonly Plan[]>(path);
  const [name, setName] = useState('');
  const [error, setError] = useState<ShownError>();
  const [saved, setSaved] = useState('');
  const [picked, setPicked] = useState<readonly number[]>([]);
  const undo = useUndo();
  const open = plans.value?.find((p) => p.id === Number(query.get('plan')));
  /** What is at hand as a plan; fixes of the plan it came from that this sweep does not ask for stay in it. */
  const content = (called: string, from?: PlanParts): PlanParts => {
    const known = new Set(bench.groups.map((g) => g.id));
    return {
      name: called,
      visitor: bench.visitor.id,
      scope: scopeText(bench.scope),
      fixes: [
        ...bench.chosen.flatMap((group) => {
          const title = bench.groups.find((g) => g.id === group)?.title;
          return title ? [{ group, title, ...(bySite[siteId]?.[group] ?? NO_DETAILS) }] : [];
        }),
        ...(from?.fixes ?? []).filter((f) => !known.has(f.group)),
      ],
    };
  };
  const live = usePlanInCommon(open, content, plans.reload, (merged) => {
    take(siteId, merged);
    bench.choose(merged.fixes.map((f) => f.group));
  });
  const save = async (to: string, method: 'POST' | 'PUT', called: string) => {
    setError(undefined);
    try {
      const base = method === 'PUT' ? live.base : undefined;
      const plan = await send<Plan & { readonly conflicts?: readonly PlanConflict[] }>(to, method, {
        ...content(called, base),
        base,
      });
      live.begin(plan);
      take(siteId, plan);
      bench.choose(plan.fixes.map((f) => f.group));
      setQuery({ plan: String(plan.id) });
      setName('');
      setSaved([`${plan.name} is saved.`, ...conflictWords(plan.conflicts ?? [])].join(' '));
      plans.reload();
    } catch (e) {
      setError(shownError(e));
    }
  };
  const show = (plan: Plan) => {
    take(siteId, plan);
    live.begin(plan);
    setSaved('');
    bench.choose(plan.fixes.map((f) => f.group));
    setQuery({ plan: String(plan.id), visitor: plan.visitor, scope: scopeText(parseScope(plan.scope)) || null });
  };
  const remove = (plan: Plan) =>
    ask(`${path}/${plan.id}`, { method: 'DELETE' })
      .then(() => {
        plans.reload();
        setSaved('');
        undo.offer(`${plan.name} is deleted.`, () =>
          ask(path, {
            method: 'POST',
            headers: { 'content-type': 'application/json' },
            body: JSON.stringify({ name: plan.name, visitor: plan.visitor, scope: plan.scope, fixes: plan.fixes }),
          }).then(plans.reload),
        );
      })
      .catch((e: unknown) => setError(shownError(e)));
  const compared = (plans.value ?? []).filter((p) => picked.includes(p.id));
  return (
    <section aria-label="Plans">
      <h2>Plans</h2>
      <form
        className="tools"
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim()) void save(path, 'POST', name.trim());
        }}
      >
        {open && (
          <button
            data-needs="fixer"
            type="button"
            className="put"
            disabled={bench.chosen.length === 0}
            onClick={() => void save(`${path}/${open.id}`, 'PUT', open.name)}
          >
            Save “{open.name}” over
          </button>
        )}
        <input
          data-needs="auditor"
          aria-label="Name of the plan"
          placeholder={open ? 'Another name' : 'Before the spring fair'}
          value={name}
          maxLength={120}
          onChange={(e) => (setName(e.target.value), setSaved(''))}
        />
        <button data-needs="auditor" className="put" disabled={bench.chosen.length === 0 || name.trim() === ''}>
          Save as a plan
        </button>
        {saved && <span role="status">{saved}</span>}
        {live.news && <span role="status">{live.news}</span>}
        {bench.chosen.length === 0 && <span className="soft">A plan needs a fix on the bench.</span>}
      </form>
      {error && <ErrorBox error={error} />}
      {plans.error && <ErrorBox error={plans.error} retry={plans.reload} />}
      <UndoNotice undo={undo} />
      {!plans.value && plans.loading && <Loading what="Reading plans" />}
      {plans.value?.length === 0 && (
        <p className="soft">No plan yet. Put fixes on the bench, give them owners and dates, and save them here.</p>
      )}
      {plans.value && plans.value.length > 0 && (
        <table className="rows">
          <thead>
            <tr>
              <th>Compare</th>
              <th>Plan</th>
              <th>Fixes</th>
              <th>Done</th>
              <th>Saved</th>
              <HeadUnseen>Delete</HeadUnseen>
            </tr>
          </thead>
          <tbody>
            {plans.value.map((p) => (
              <tr key={p.id} className={p.id === open?.id ? 'at' : ''}>
                <td>
                  <input
                    type="checkbox"
                    aria-label={`Compare ${p.name}`}
                    checked={picked.includes(p.id)}
                    onChange={(e) =>
                      setPicked(e.target.checked ? [...picked, p.id] : picked.filter((id) => id !== p.id))
                    }
                  />
                </td>
                <td>
                  <button className="link strong" onClick={() => show(p)}>
                    {p.name}
                  </button>
                  {missing(p, bench.groups) > 0 && (
                    <div className="soft small">
                      {count(missing(p, bench.groups), 'fix', 'fixes')} of it no longer needed in this sweep
                    </div>
                  )}
                </td>
                <td>{p.fixes.length}</td>
                <td>{p.fixes.filter((f) => f.state === 'done').length || '–'}</td>
                <td className="soft">{dayTime(p.updatedAt)}</td>
                <td className="right">
                  <button
                    data-needs="auditor"
                    className="link soft"
                    onClick={() => void remove(p)}
                    aria-label={`Delete ${p.name}`}
                  >
                    delete
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {open && <PlanOutcome siteId={siteId} plan={open} />}
      {compared.length > 0 && <PlanComparison plans={compared} />}
    </section>
  );
}

/** Fixes of a plan that this sweep no longer asks for. */
function missing(plan: Plan, groups: readonly { readonly id: string }[]): number {
  const known = new Set(groups.map((g) => g.id));
  return plan.fixes.filter((f) => !known.has(f.group)).length;
}
