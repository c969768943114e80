import { useState } from 'react';
import { CONCERNS, type Concern, type Harm } from '../../core/checks/concern';
import { scopeText } from '../../core/plan/plan';
import { figureName, limitText, WATCHED_FIGURES, watchedText, type WatchedFigure } from '../../core/watch/limits';
import type { History } from '../../core/watch/history';
import { isCrawlFigure } from '../../core/watch/crawlFigures';
import { shownError, useResource, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { useVisitors, visitorNamed } from '../state/visitors';
import { day } from '../ui/format';
import { ErrorBox, HeadUnseen } from '../ui/parts';
import { SetTo } from '../ui/SetTo';
import { UndoNotice, useUndo } from '../ui/UndoNotice';
import { send } from '../state/send';
import { pageScopes } from './pageScopes';
import type { WatchAnswer } from './watchPath';

type Row = WatchAnswer['limits'][number];

/** A limit as the API takes it. */
interface Sent {
  readonly figure: WatchedFigure;
  readonly visitor: string;
  readonly scope: string;
  readonly bound: number;
  readonly tolerance: number;
  readonly concern?: Concern;
  readonly harm?: Harm;
}

const sentOf = ({ figure, visitor, scope, bound, tolerance, concern, harm }: Row): Sent => ({
  figure,
  visitor,
  scope: scopeText(scope),
  bound,
  tolerance,
  concern,
  harm,
});

/** The most that figures may be, and what came of it in each sweep. */
export function LimitsView({ watch, reload }: { watch: WatchAnswer; reload: () => void }) {
  const { siteId, site } = useBench();
  const visitors = useVisitors();
  const [error, setError] = useState<ShownError>();
  const [editing, setEditing] = useState<Row | 'new'>();
  const undo = useUndo();
  const path = `/api/sites/${siteId}/watch-limits`;
  const dayOf = (sweepId: number) => site.value?.sweeps.find((s) => s.id === sweepId)?.day ?? '';
  const remove = (row: Row) => {
    setError(undefined);
    send(`${path}/${row.id}`, 'DELETE')
      .then(() => {
        reload();
        undo.offer(`The limit is deleted: ${limitText(row)}.`, () => send(path, 'POST', sentOf(row)).then(reload));
      })
      .catch((e: unknown) => setError(shownError(e)));
  };
  return (
    <>
      <UndoNotice undo={undo} />
      {error && <ErrorBox error={error} />}
      {watch.limits.length > 0 && (
        <table className="rows watch-rows">
          <thead>
            <tr>
              <th>Limit</th>
              <th>Last sweep</th>
              <th>State</th>
              <HeadUnseen>Do</HeadUnseen>
            </tr>
          </thead>
          <tbody>
            {watch.limits.map((limit) => {
              const [last] = limit.results;
              const text = (n: number) => watchedText(limit.figure, n);
              return (
                <tr key={limit.id}>
                  <td>
                    {limitText(limit)}
                    <div className="soft small">
                      {isOfVisitor(limit.figure) && `${visitorNamed(limit.visitor, visitors).name}. `}
                      {limit.tolerance > 0 && `${Math.round(limit.tolerance * 100)} % more is tolerated.`}
                    </div>
                  </td>
                  <td>
                    {last ? (
                      <>
                        {text(last.value)}
                        {last.range && (
                          <span className="soft">
                            {' '}
                            ({text(last.range[0])} to {text(last.range[1])})
                          </span>
                        )}
                        <div className="soft small">{day(dayOf(last.sweepId) || last.judgedAt)}</div>
                      </>
                    ) : (
                      <span className="soft">nothing known yet</span>
                    )}
                  </td>
                  <td>
                    <LimitState results={limit.results} dayOf={dayOf} />
                  </td>
                  <td className="right-end">
                    {isOfVisitor(limit.figure) && (
                      <SetTo
                        className="link"
                        changes={{
                          view: 'history',
                          figure: limit.figure,
                          pages: scopeText(limit.scope) || null,
                          visitor: limit.visitor,
                          concern: limit.concern ?? null,
                          harm: limit.harm ?? null,
                        }}
                      >
                        History
                      </SetTo>
                    )}
                    <button data-needs="auditor" className="link" onClick={() => setEditing(limit)}>
                      Change
                    </button>
                    <button data-needs="auditor" className="link" onClick={() => remove(limit)}>
                      Delete
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      {watch.limits.length === 0 && (
        <p className="soft">
          No limit yet. A limit is broken when the whole range of a figure lies beyond it, or when it is passed twice in
          a row: noise does not alarm anybody.
        </p>
      )}
      {editing ? (
        <LimitForm
          key={editing === 'new' ? 'new' : editing.id}
          from={editing === 'new' ? undefined : sentOf(editing)}
          save={(value) =>
            (editing === 'new' ? send(path, 'POST', value) : send(`${path}/${editing.id}`, 'PUT', value)).then(() => {
              setEditing(undefined);
              reload();
            })
          }
          cancel={() => setEditing(undefined)}
        />
      ) : (
        <p>
          <button data-needs="auditor" className="button solid" onClick={() => setEditing('new')}>
            Add a limit
          </button>
        </p>
      )}
    </>
  );
}

/** Figures that differ from visitor to visitor. */
const isOfVisitor = (figure: WatchedFigure) =>
  figure !== 'certificateDays' && figure !== 'faultyEntrances' && figure !== 'newFindings' && !isCrawlFigure(figure);

/** Figures that may be of one page. */
const isOfPages = (figure: WatchedFigure) => isOfVisitor(figure) || isCrawlFigure(figure);

function LimitState({ results, dayOf }: { results: Row['results']; dayOf: (sweep: number) => string }) {
  const [last] = results;
  if (!last) return null;
  if (last.broken)
    return (
      <>
        <span className="strong cost">broken</span>
        {last.brokenSince !== null && <div className="soft small">since {day(dayOf(last.brokenSince))}</div>}
      </>
    );
  if (last.over) return <>passed once: not sure yet</>;
  return <span className="gain">holds</span>;
}

const HARMS: readonly Harm[] = ['broken', 'exposed', 'slow', 'tidy'];

/** How a bound is written in the form: times in seconds, bytes in kB. */
const UNITS: Readonly<Partial<Record<WatchedFigure, { readonly name: string; readonly factor: number }>>> = {
  lcpMs: { name: 's', factor: 1000 },
  fcpMs: { name: 's', factor: 1000 },
  loadMs: { name: 's', factor: 1000 },
  bytes: { name: 'kB', factor: 1000 },
  answerMs: { name: 'ms', factor: 1 },
  certificateDays: { name: 'days', factor: 1 },
};

function LimitForm(props: { from?: Sent; save: (value: Sent) => Promise<void>; cancel: () => void }) {
  const { from } = props;
  const { siteId, visitor: current, pages } = useBench();
  const visitors = useVisitors();
  const [figure, setFigure] = useState<WatchedFigure>(from?.figure ?? 'lcpMs');
  const [visitor, setVisitor] = useState(from?.visitor ?? current.id);
  const [scope, setScope] = useState(from?.scope ?? '');
  const [concern, setConcern] = useState<string>(from?.concern ?? '');
  const [harm, setHarm] = useState<string>(from?.harm ?? '');
  const unit = UNITS[figure] ?? { name: '', factor: 1 };
  const [bound, setBound] = useState(from ? String(from.bound / (UNITS[from.figure]?.factor ?? 1)) : '2.5');
  const [tolerance, setTolerance] = useState(String(Math.round((from?.tolerance ?? 0.1) * 100)));
  const [error, setError] = useState<ShownError>();
  const ofFindings = figure === 'findings' || figure === 'newFindings';
  const narrowed = new URLSearchParams({ figure, visitor, scope });
  if (concern) narrowed.set('concern', concern);
  if (harm) narrowed.set('harm', harm);
  const known = useResource<History>(
    isOfVisitor(figure) ? `/api/sites/${siteId}/history?${narrowed.toString()}` : undefined,
  );
  const now = known.stale ? undefined : known.value?.points.at(-1);
  return (
    <form
      className="form watch-form"
      aria-label={from ? 'Change the limit' : 'New limit'}
      onSubmit={(e) => {
        e.preventDefault();
        setError(undefined);
        props
          .save({
            figure,
            visitor,
            scope: isOfPages(figure) ? scope : '',
            bound: Math.round(Number(bound) * unit.factor * 1000) / 1000,
            tolerance: Number(tolerance) / 100,
            concern: ofFindings && concern ? (concern as Concern) : undefined,
            harm: ofFindings && harm ? (harm as Harm) : undefined,
          })
          .catch((fault: unknown) => setError(shownError(fault)));
      }}
    >
      <div className="watch-when">
        <label>
          Figure
          <select value={figure} onChange={(e) => setFigure(e.target.value as WatchedFigure)}>
            {WATCHED_FIGURES.map((f) => (
              <option key={f} value={f}>
                {figureName(f)}
              </option>
            ))}
          </select>
        </label>
        {isOfPages(figure) && (
          <label>
            Pages
            <select value={scope} onChange={(e) => setScope(e.target.value)}>
              {pageScopes(pages, scope).map((s) => (
                <option key={s.value} value={s.value}>
                  {s.name}
                </option>
              ))}
            </select>
          </label>
        )}
        {isOfVisitor(figure) && (
          <>
            <label>
              Visitor
              <select value={visitor} onChange={(e) => setVisitor(e.target.value)}>
                {visitors.map((v) => (
                  <option key={v.id} value={v.id}>
                    {v.name}
                  </option>
                ))}
              </select>
            </label>
          </>
        )}
        {ofFindings && (
          <>
            <label>
              Concern
              <select value={concern} onChange={(e) => setConcern(e.target.value)}>
                <option value="">any</option>
                {CONCERNS.map((c) => (
                  <option key={c.id} value={c.id}>
                    {c.name}
                  </option>
                ))}
              </select>
            </label>
            <label>
              Harm
              <select value={harm} onChange={(e) => setHarm(e.target.value)}>
                <option value="">any</option>
                {HARMS.map((h) => (
                  <option key={h} value={h}>
                    {h}
                  </option>
                ))}
              </select>
            </label>
          </>
        )}
      </div>
      <div className="watch-when">
        <label>
          {figure === 'certificateDays' ? 'At least' : 'At most'} {unit.name && `(${unit.name})`}
          <input inputMode="decimal" required value={bound} onChange={(e) => setBound(e.target.value)} />
        </label>
        {((isOfVisitor(figure) && figure !== 'findings') || figure === 'answerMs') && (
          <label>
            Tolerance (%)
            <input type="number" min={0} max={1000} value={tolerance} onChange={(e) => setTolerance(e.target.value)} />
          </label>
        )}
        {now && (
          <span className="soft">
            Now it is {watchedText(figure, now.value)}
            {now.range && ` (${watchedText(figure, now.range[0])} to ${watchedText(figure, now.range[1])})`}.
          </span>
        )}
      </div>
      {error && <ErrorBox error={error} />}
      <p className="tools">
        <button className="button solid">{from ? 'Save' : 'Add it'}</button>
        <button type="button" className="link" onClick={props.cancel}>
          Cancel
        </button>
      </p>
    </form>
  );
}
