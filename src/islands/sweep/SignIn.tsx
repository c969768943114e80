import type { SweepSettings } from '../../core/site/settings';
import { Field, Fold, LinesField, Tick } from '../ui/Fields';

/** Who asks: user agent, headers, name and password, and where hosts are to be found. */
export function SignIn({ settings, set }: { settings: SweepSettings; set: (values: Partial<SweepSettings>) => void }) {
  const auth = settings.basicAuth ?? { username: '', password: '' };
  const headers = [...settings.headers, { name: '', value: '' }];
  const setHeader = (at: number, part: Partial<{ name: string; value: string }>) =>
    set({ headers: headers.map((h, i) => (i === at ? { ...h, ...part } : h)).filter((h) => h.name || h.value) });
  return (
    <Fold title="Identity and host map">
      <Field label="User agent">
        {(id) => <input id={id} value={settings.userAgent} onChange={(e) => set({ userAgent: e.target.value })} />}
      </Field>
      <Field label="Name and password" help="HTTP Basic, for staging servers. Sent to the site itself only.">
        {(id) => (
          <span className="pair">
            <input
              id={id}
              placeholder="name"
              autoComplete="off"
              value={auth.username}
              onChange={(e) => set({ basicAuth: { ...auth, username: e.target.value } })}
            />
            <input
              type="password"
              aria-label="Password"
              placeholder="password"
              autoComplete="new-password"
              value={auth.password}
              onChange={(e) => set({ basicAuth: { ...auth, password: e.target.value } })}
            />
          </span>
        )}
      </Field>
      <Field label="Headers" help="Sent with every request to the site itself; values are not shown again.">
        {(id) =>
          headers.map((h, i) => (
            <span className="pair" key={i}>
              <input
                id={i === 0 ? id : undefined}
                aria-label={`Name of header ${i + 1}`}
                placeholder="name"
                value={h.name}
                onChange={(e) => setHeader(i, { name: e.target.value.trim() })}
              />
              <input
                aria-label={`Value of header ${i + 1}`}
                placeholder="value"
                value={h.value}
                onChange={(e) => setHeader(i, { value: e.target.value })}
              />
            </span>
          ))
        }
      </Field>
      <Field
        label="Hosts elsewhere"
        help="HOST=ADDRESS or HOST:PORT=ADDRESS:PORT, one a line: for a server that has no public name yet."
      >
        {(id) => <LinesField id={id} value={settings.mapHosts} onChange={(mapHosts) => set({ mapHosts })} />}
      </Field>
      <Field label="Allow">
        {() => (
          <>
            <Tick
              label="Private addresses (loopback, home and company networks)"
              value={settings.allowPrivate}
              onChange={(v) => set({ allowPrivate: v })}
            />
            <Tick
              label="Certificates that are not valid"
              value={settings.acceptAnyCertificate}
              onChange={(v) => set({ acceptAnyCertificate: v })}
            />
          </>
        )}
      </Field>
    </Fold>
  );
}
