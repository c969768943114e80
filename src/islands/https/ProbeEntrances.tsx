import { useState } from 'react';
import type { SweepSettings } from '../../core/site/settings';
import { ask, shownError, useResource, type ShownError } from '../state/api';
import { JobLine, useSiteJob } from '../sweep/SiteJob';
import { ErrorBox, Loading } from '../ui/parts';

/** Starts a probe and shows how far it is. */
export function ProbeEntrances({ siteId, askedAt, onDone }: { siteId: number; askedAt?: string; onDone: () => void }) {
  const job = useSiteJob(siteId, 'probe', onDone);
  const [error, setError] = useState<ShownError>();
  const [open, setOpen] = useState(false);
  const start = () => {
    setError(undefined);
    ask(`/api/sites/${siteId}/entrances`, { method: 'POST' }).catch((e: unknown) => setError(shownError(e)));
  };
  if (job) return <JobLine job={job} />;
  return (
    <>
      {error && <ErrorBox error={error} />}
      <p className="tools">
        <button data-needs="auditor" className="put" onClick={start}>
          {askedAt ? 'Probe again' : 'Probe the entrances'}
        </button>
        <button data-needs="auditor" className="link" aria-expanded={open} onClick={() => setOpen(!open)}>
          What is probed
        </button>
      </p>
      {open && <ProbeSettings siteId={siteId} />}
    </>
  );
}

/** Hosts added by hand, pages of each template, and whether a sweep asks too. */
function ProbeSettings({ siteId }: { siteId: number }) {
  const settings = useResource<SweepSettings>(`/api/sites/${siteId}/settings`);
  const [said, setSaid] = useState<string>();
  const [error, setError] = useState<ShownError>();
  if (settings.error) return <ErrorBox error={settings.error} retry={settings.reload} />;
  if (!settings.value) return <Loading what="Reading settings" />;
  const { entrances } = settings.value;
  const save = (form: FormData) => {
    setError(undefined);
    ask(`/api/sites/${siteId}/settings`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        entrances: {
          hosts: String(form.get('hosts'))
            .split(/[\s,]+/)
            .filter(Boolean),
          perTemplate: Number(form.get('perTemplate')),
          withSweep: form.get('withSweep') === 'on',
          outsideLinks: form.get('outsideLinks') === 'on',
        },
      }),
    })
      .then(() => {
        setSaid('Saved: used from the next probe on.');
        settings.reload();
      })
      .catch((e: unknown) => setError(shownError(e)));
  };
  return (
    <form
      className="drop-field"
      onSubmit={(e) => {
        e.preventDefault();
        save(new FormData(e.currentTarget));
      }}
    >
      <p className="soft">
        The home address with and without www, every other host of the site that its pages and certificates name, and a
        sample of each template: by http, with the other host form and the other trailing slash.
      </p>
      <label>
        More hosts, one a line
        <textarea name="hosts" rows={4} defaultValue={entrances.hosts.join('\n')} />
      </label>
      <p className="tools">
        <label>
          Pages of each template{' '}
          <input name="perTemplate" type="number" min={0} max={100_000} defaultValue={entrances.perTemplate} />
        </label>
        <label>
          <input name="withSweep" type="checkbox" defaultChecked={entrances.withSweep} /> probe at the end of each sweep
        </label>
        <label>
          <input name="outsideLinks" type="checkbox" defaultChecked={entrances.outsideLinks} /> look up whether https
          exists for pages of other sites that are linked by http
        </label>
        <button className="put">Save settings</button>
        {said && <span role="status">{said}</span>}
      </p>
      {error && <ErrorBox error={error} />}
    </form>
  );
}
