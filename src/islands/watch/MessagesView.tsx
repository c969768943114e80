import { useState } from 'react';
import type { NotifySettings } from '../../engine/store/watch/notices';
import type { MailServer } from '../../engine/store/appSettings';
import type { TriedWay } from '../../engine/watch/tryWays';
import { shownError, useResource, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { dayTime } from '../ui/format';
import { Fold } from '../ui/Fields';
import { ErrorBox, Loading } from '../ui/parts';
import { send } from '../state/send';
import type { WatchAnswer } from './watchPath';

/** Who is told: by mail, by a request to another program; and the mail server of the application. */
export default function MessagesView({ watch, reload }: { watch: WatchAnswer; reload: () => void }) {
  return (
    <>
      <WaysForm watch={watch} reload={reload} />
      <Deliveries rows={watch.deliveries} />
      <Fold title="Mail server of this application" open={!watch.hasMailServer && watch.notify.mailTo.length > 0}>
        {(opened) => opened && <MailServerForm reload={reload} />}
      </Fold>
    </>
  );
}

function WaysForm({ watch, reload }: { watch: WatchAnswer; reload: () => void }) {
  const { siteId } = useBench();
  const { notify } = watch;
  const [error, setError] = useState<ShownError>();
  const [secret, setSecret] = useState<string>();
  const [tried, setTried] = useState<readonly TriedWay[]>();
  const [busy, setBusy] = useState(false);
  const [saved, setSaved] = useState(false);
  const path = `/api/sites/${siteId}/notify`;
  const save = (form: FormData) => {
    const text = (name: string) => String(form.get(name) ?? '').trim();
    setError(undefined);
    setTried(undefined);
    send<NotifySettings & { newSecret?: string }>(path, 'PUT', {
      mailTo: text('mailTo')
        .split(/[\s,;]+/)
        .filter(Boolean),
      monthly: form.get('monthly') === 'on',
      webhook: text('url') ? { url: text('url'), secret: text('secret') } : null,
    })
      .then((answer) => {
        setSecret(answer.newSecret);
        setSaved(true);
        reload();
      })
      .catch((e: unknown) => setError(shownError(e)));
  };
  const test = () => {
    setBusy(true);
    setError(undefined);
    send<TriedWay[]>(path, 'POST')
      .then(setTried)
      .catch((e: unknown) => setError(shownError(e)))
      .finally(() => setBusy(false));
  };
  return (
    <form
      className="form watch-form"
      aria-label="Where notices go"
      onChange={() => setSaved(false)}
      onSubmit={(e) => {
        e.preventDefault();
        save(new FormData(e.currentTarget));
      }}
    >
      <p className="soft">All notices of one run come in one message. Nothing is told twice.</p>
      <label>
        Mail to, one address a line
        <textarea
          name="mailTo"
          rows={2}
          defaultValue={notify.mailTo.join('\n')}
          placeholder="owner@fernhollow.example"
        />
        {!watch.hasMailServer && <span className="soft small">Mail needs the mail server below.</span>}
      </label>
      <div className="watch-when">
        <label className="wide">
          Webhook: JSON is posted to
          <input name="url" defaultValue={notify.webhook?.url} placeholder="https://hooks.fernhollow.example/lens" />
        </label>
        <label>
          Secret that signs it
          <input name="secret" type="password" autoComplete="off" defaultValue={notify.webhook?.secret} />
          <span className="soft small">Left empty, one is made.</span>
        </label>
      </div>
      <label className="tick-line">
        <input name="monthly" type="checkbox" defaultChecked={notify.monthly} /> Say once a month that all is well
      </label>
      {secret && (
        <p className="notice">
          The secret of the webhook, shown this once: <code>{secret}</code>
        </p>
      )}
      {error && <ErrorBox error={error} />}
      <p className="tools">
        <button className="button solid">Save</button>
        <button
          type="button"
          className="put"
          disabled={busy || (notify.mailTo.length === 0 && !notify.webhook)}
          onClick={test}
        >
          Send a test message
        </button>
        {busy && <Loading what="Sending" />}
        {saved && <span role="status">Saved.</span>}
      </p>
      {tried?.map((t) => (
        <p key={t.way} role="status" className={t.error ? 'cost' : ''}>
          {t.way} to {t.to}: {t.error ?? 'sent'}
        </p>
      ))}
    </form>
  );
}

function Deliveries({ rows }: { rows: WatchAnswer['deliveries'] }) {
  if (rows.length === 0) return null;
  return (
    <Fold title={`Messages (${rows.length})`} open={rows.some((r) => r.state === 'failed' || r.error !== null)}>
      <table className="plain">
        <thead>
          <tr>
            <th>Made</th>
            <th>By</th>
            <th>State</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.id}>
              <td>{dayTime(r.createdAt)}</td>
              <td>{r.channel}</td>
              <td>
                {r.state}
                {r.tries > 1 && `, ${r.tries} tries`}
                {r.error && <span className="cost">: {r.error}</span>}
                {r.state === 'waiting' && r.error && ` Tried again ${dayTime(new Date(r.nextAt).toISOString())}.`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Fold>
  );
}

interface MailAnswer {
  readonly mail: MailServer | null;
  readonly origin: string;
}

function MailServerForm({ reload }: { reload: () => void }) {
  const settings = useResource<MailAnswer>('/api/settings/mail');
  const [error, setError] = useState<ShownError>();
  const [said, setSaid] = useState<string>();
  if (settings.error) return <ErrorBox error={settings.error} retry={settings.reload} />;
  if (!settings.value) return <Loading what="Reading settings" />;
  const { mail, origin } = settings.value;
  const done = (text: string) => {
    setSaid(text);
    settings.reload();
    reload();
  };
  const run = (work: Promise<unknown>, text: string) => {
    setError(undefined);
    setSaid(undefined);
    work.then(() => done(text)).catch((e: unknown) => setError(shownError(e)));
  };
  return (
    <form
      className="form watch-form"
      aria-label="Mail server"
      onSubmit={(e) => {
        e.preventDefault();
        const { port, ...form } = Object.fromEntries(new FormData(e.currentTarget)) as Record<string, string>;
        run(send('/api/settings/mail', 'PUT', { ...form, port: Number(port) }), 'Saved.');
      }}
    >
      <div className="watch-when">
        <label>
          Host
          <input name="host" required defaultValue={mail?.host} />
        </label>
        <label>
          Port
          <input name="port" type="number" required min={1} max={65535} defaultValue={mail?.port ?? 587} />
        </label>
        <label>
          Security
          <select name="security" defaultValue={mail?.security ?? 'starttls'}>
            <option value="starttls">STARTTLS</option>
            <option value="tls">TLS</option>
            <option value="none">none: on this machine only</option>
          </select>
        </label>
      </div>
      <div className="watch-when">
        <label>
          Name
          <input name="user" autoComplete="off" defaultValue={mail?.user} />
        </label>
        <label>
          Password
          <input name="password" type="password" autoComplete="off" defaultValue={mail?.password} />
        </label>
        <label>
          Sender
          <input name="from" type="email" required defaultValue={mail?.from} />
        </label>
        <label>
          Address of this application for others
          <input name="origin" defaultValue={origin} placeholder="https://lens.example" />
        </label>
      </div>
      <p className="soft small">The password is kept encrypted, apart from what belongs to sites.</p>
      {error && <ErrorBox error={error} />}
      <p className="tools">
        <button className="button solid">Save</button>
        {mail && (
          <>
            <button
              type="button"
              className="put"
              onClick={() =>
                run(send('/api/settings/mail', 'POST', { to: mail.from }), `A test mail went to ${mail.from}.`)
              }
            >
              Send a test mail to the sender
            </button>
            <button
              type="button"
              className="link"
              onClick={() => run(send('/api/settings/mail', 'DELETE'), 'Forgotten.')}
            >
              Forget this server
            </button>
          </>
        )}
        {said && <span role="status">{said}</span>}
      </p>
    </form>
  );
}
