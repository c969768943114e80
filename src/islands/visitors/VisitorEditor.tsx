import './visitors.css';
import { Dialog } from '../ui/Dialog';
import { useEffect, useMemo, useState } from 'react';
import { parseVisitor, specText, VISITORS, type Visitor } from '../../core/load/visitors';
import type { ComparedAnswer } from '../../workers/benchMessages';
import { shownError, type ShownError } from '../state/api';
import { useMaybeBench, type Bench } from '../state/bench';
import { setQuery } from '../state/location';
import { useSession } from '../state/session';
import { deleteVisitor, saveVisitor, useOwnVisitors } from '../state/visitors';
import { ms } from '../ui/format';
import { ErrorBox, Term, HeadUnseen } from '../ui/parts';
import { UndoNotice, useUndo } from '../ui/UndoNotice';
import { fieldFault, fieldsOf, VISITOR_FIELDS, type VisitorFields } from './visitorForm';

/** Makes up visitors, changes and deletes them, and says at once what each would see. */
export default function VisitorEditor() {
  const { editedVisitor, editVisitor } = useSession();
  return (
    <Dialog opened={editedVisitor !== undefined} onClose={() => editVisitor(undefined)} title="Visitors" size="lg">
      {editedVisitor && <Editor start={editedVisitor} />}
    </Dialog>
  );
}

function Editor({ start }: { start: Visitor }) {
  const bench = useMaybeBench();
  const { editVisitor } = useSession();
  const own = useOwnVisitors();
  const known = own?.find((o) => o.spec === start.id);
  const [id, setId] = useState(known?.id);
  const [name, setName] = useState(known?.name ?? '');
  const [fields, setFields] = useState<VisitorFields>(fieldsOf(start));
  const [error, setError] = useState<ShownError>();
  const undo = useUndo();
  const faults = VISITOR_FIELDS.flatMap((f) => fieldFault(f, fields[f.name]) ?? []);
  const spec = specText(fields);
  const take = (v: Visitor) => setFields(fieldsOf(v));
  const store = async () => {
    try {
      const saved = await saveVisitor({ id, name: name.trim(), spec });
      setQuery({ visitor: saved.spec });
      editVisitor(undefined);
    } catch (e) {
      setError(shownError(e));
    }
  };
  return (
    <form className="visitor-form" onSubmit={(e) => (e.preventDefault(), void store())}>
      {own && own.length > 0 && (
        <ul className="own-visitors">
          {own.map((o) => (
            <li key={o.id} className="between">
              <button
                type="button"
                className={o.id === id ? 'link strong' : 'link'}
                onClick={() => (setId(o.id), setName(o.name), take(parseVisitor(o.spec)))}
              >
                {o.name}
              </button>
              <button
                type="button"
                className="link soft"
                aria-label={`Delete ${o.name}`}
                onClick={() =>
                  void deleteVisitor(o.id).then(() => {
                    if (o.id === id) setId(undefined);
                    undo.offer(`${o.name} is deleted.`, () => saveVisitor({ name: o.name, spec: o.spec }));
                  })
                }
              >
                delete
              </button>
            </li>
          ))}
        </ul>
      )}
      <UndoNotice undo={undo} />
      <p className="soft small">
        Start from{' '}
        {VISITORS.map((v) => (
          <button key={v.id} type="button" className="link" onClick={() => take(v)}>
            {v.name}
          </button>
        ))}
      </p>
      <label className="visitor-field">
        <span>Name</span>
        <input
          value={name}
          maxLength={60}
          required
          placeholder="Tablet in the train"
          onChange={(e) => setName(e.target.value)}
        />
      </label>
      {VISITOR_FIELDS.map((f) => (
        <label key={f.name} className="visitor-field">
          <Term means={f.means}>{f.label}</Term>
          <span>
            <input
              type="number"
              min={f.least}
              max={f.most}
              step={f.step}
              aria-label={`${f.label}, ${f.unit}`}
              aria-invalid={fieldFault(f, fields[f.name]) !== undefined}
              value={Number.isFinite(fields[f.name]) ? fields[f.name] : ''}
              onChange={(e) => setFields({ ...fields, [f.name]: e.target.valueAsNumber })}
            />{' '}
            <span className="soft">{f.unit}</span>
          </span>
        </label>
      ))}
      <label className="visitor-field">
        <Term means="Says it has a touch screen: some pages serve other files then.">Touch</Term>
        <span>
          <input
            type="checkbox"
            checked={fields.touch}
            onChange={(e) => setFields({ ...fields, touch: e.target.checked })}
          />
        </span>
      </label>
      {faults.length > 0 ? <p className="cost">{faults.join(' ')}</p> : bench && <Preview bench={bench} spec={spec} />}
      {error && <ErrorBox error={error} />}
      <p className="tools">
        <button data-needs="auditor" className="button solid" disabled={faults.length > 0 || name.trim() === ''}>
          {id === undefined ? 'Save and use' : 'Save over and use'}
        </button>
        {id !== undefined && (
          <button type="button" className="link" onClick={() => (setId(undefined), setName(`${name} 2`))}>
            As a new one
          </button>
        )}
        <button
          type="button"
          className="link"
          disabled={faults.length > 0}
          onClick={() => (setQuery({ visitor: parseVisitor(spec).id }), editVisitor(undefined))}
        >
          Use once, without saving
        </button>
      </p>
    </form>
  );
}

/** What the fields would do to the pages at hand, beside the visitor chosen now. */
function Preview({ bench, spec }: { bench: Bench; spec: string }) {
  const [answer, setAnswer] = useState<readonly ComparedAnswer[]>();
  const visitor = useMemo(() => parseVisitor(spec), [spec]);
  const { compare, ready, pages, chosen, scoped } = bench;
  const now = bench.visitor;
  useEffect(() => {
    if (!ready || pages.length === 0) return;
    let stale = false;
    const within = scoped.map((p) => p.captureId);
    const timer = setTimeout(() => {
      void compare([
        { visitor: now, groups: chosen, within },
        { visitor, groups: chosen, within },
      ]).then((a) => !stale && setAnswer(a));
    }, 120);
    return () => {
      stale = true;
      clearTimeout(timer);
    };
  }, [compare, ready, pages, chosen, scoped, now, visitor]);
  const [was, is] = answer ?? [];
  if (pages.length === 0) return null;
  return (
    <table className="rows visitor-preview" aria-live="polite">
      <caption>{scoped.length === 1 ? 'On the page at hand' : `On the average of ${scoped.length} pages`}</caption>
      <thead>
        <tr>
          <HeadUnseen>Figure</HeadUnseen>
          <th className="right">{now.name}</th>
          <th className="right">This one</th>
        </tr>
      </thead>
      <tbody>
        <PreviewRow name="First paint" was={was?.now.fcpMs} is={is?.now.fcpMs} />
        <PreviewRow name="Hero paint (LCP)" was={was?.now.lcpMs} is={is?.now.lcpMs} />
        {chosen.length > 0 && (
          <PreviewRow name="Hero paint (LCP), with the bench" was={was?.after.lcpMs} is={is?.after.lcpMs} />
        )}
      </tbody>
    </table>
  );
}

function PreviewRow({ name, was, is }: { name: string; was?: number; is?: number }) {
  return (
    <tr>
      <td>{name}</td>
      <td className="right">{was === undefined ? '…' : ms(was)}</td>
      <td className="right strong">{is === undefined ? '…' : ms(is)}</td>
    </tr>
  );
}
