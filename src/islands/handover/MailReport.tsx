import { useState } from 'react';
import type { Reader } from '../../core/handover/report/facts';
import { FORMATS_OF } from '../../core/handover/report/formats';
import { shownError, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { send } from '../state/send';
import { ErrorBox, Loading } from '../ui/parts';

/** Sends the report at hand by mail, as a file. */
export default function MailReport({ reader }: { reader: Reader }) {
  const { siteId, sweepId, visitor } = useBench();
  const [error, setError] = useState<ShownError>();
  const [state, setState] = useState<'sending' | string>();
  const submit = (form: FormData) => {
    const to = String(form.get('to'))
      .split(/[\s,;]+/)
      .filter(Boolean);
    setError(undefined);
    setState('sending');
    send<{ sentTo: string[] }>(`/api/sites/${siteId}/report/mail`, 'POST', {
      to,
      reader,
      format: form.get('format'),
      visitor: visitor.id,
      sweep: sweepId,
      text: form.get('text'),
    })
      .then(({ sentTo }) => setState(`Sent to ${sentTo.join(', ')}.`))
      .catch((e: unknown) => {
        setState(undefined);
        setError(shownError(e));
      });
  };
  return (
    <form
      className="form handover-form"
      aria-label="Send by mail"
      onSubmit={(e) => {
        e.preventDefault();
        submit(new FormData(e.currentTarget));
      }}
    >
      <div className="handover-fields">
        <label className="wide">
          To
          <input name="to" required placeholder="owner@fernhollow.example" />
        </label>
        <label>
          As
          <select name="format" key={reader} defaultValue={FORMATS_OF[reader][0]}>
            {FORMATS_OF[reader].map((f) => (
              <option key={f} value={f}>
                {f.toUpperCase()}
              </option>
            ))}
          </select>
        </label>
      </div>
      <label>
        Text of the mail
        <textarea name="text" rows={3} placeholder="The report is attached." />
      </label>
      {error && <ErrorBox error={error} />}
      <p className="tools">
        <button className="button solid" disabled={state === 'sending'}>
          Send
        </button>
        {state === 'sending' ? (
          <Loading what="Writing and sending the report" />
        ) : (
          state && <span role="status">{state}</span>
        )}
      </p>
    </form>
  );
}
