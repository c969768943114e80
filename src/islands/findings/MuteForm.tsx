import { useEffect, useRef, useState } from 'react';
import type { Finding } from '../../core/checks/finding';
import type { MuteRow, MuteScope } from '../../engine/store/mutes';
import { announceChange, ask, shownError, type ShownError } from '../state/api';
import { ErrorBox } from '../ui/parts';

/** What can be muted from a finding, with its name. */
export type Mutable = readonly { readonly scope: MuteScope; readonly name: string }[];

/** Asks why something is to be kept out of lists and counts, and mutes it. */
export function MuteForm(props: {
  siteId: number;
  finding: Finding;
  scopes: Mutable;
  onDone: (mute: MuteRow) => void;
  onCancel: () => void;
}) {
  const { finding: f, scopes } = props;
  const [scope, setScope] = useState<MuteScope>(scopes[0]?.scope ?? 'finding');
  const [reason, setReason] = useState('');
  const [error, setError] = useState<ShownError>();
  const box = useRef<HTMLInputElement>(null);
  useEffect(() => box.current?.focus(), []);
  const send = () => {
    const value = scope === 'check' ? f.check : scope === 'cause' ? f.cause : f.id;
    ask<MuteRow>(`/api/sites/${props.siteId}/mutes`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ scope, value, check: f.check, title: f.title, reason }),
    })
      .then((mute) => (announceChange(), props.onDone(mute)))
      .catch((e: unknown) => setError(shownError(e)));
  };
  return (
    <form
      className="mute-form tools"
      onSubmit={(e) => (e.preventDefault(), send())}
      onKeyDown={(e) => e.key === 'Escape' && props.onCancel()}
    >
      <label>
        Mute{' '}
        <select value={scope} onChange={(e) => setScope(e.target.value as MuteScope)}>
          {scopes.map((s) => (
            <option key={s.scope} value={s.scope}>
              {s.name}
            </option>
          ))}
        </select>
      </label>
      <input
        ref={box}
        value={reason}
        onChange={(e) => setReason(e.target.value)}
        placeholder="Reason"
        aria-label="Reason for muting"
        maxLength={500}
        required
      />
      <button className="put">Mute</button>
      <button type="button" className="link" onClick={props.onCancel}>
        Cancel
      </button>
      {error && <ErrorBox error={error} />}
    </form>
  );
}

/** Takes a mute back. @throws RequestError */
export function unmute(siteId: number, id: number): Promise<void> {
  return ask<void>(`/api/sites/${siteId}/mutes/${id}`, { method: 'DELETE' }).then(announceChange);
}

/** Says what was muted last, with the way back. */
export function MutedNotice(props: { mute?: MuteRow; onUndo: (mute: MuteRow) => void }) {
  const { mute } = props;
  if (!mute) return null;
  return (
    <p role="status" className="notice">
      Muted: {mute.title}{' '}
      <button className="link" onClick={() => props.onUndo(mute)}>
        Undo
      </button>
    </p>
  );
}
