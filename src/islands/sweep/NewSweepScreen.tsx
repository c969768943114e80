import { hostOf } from '../../core/capture/url';
import { lazy, useEffect, useState } from 'react';
import { PRESETS, presetOf, type SweepSettings } from '../../core/site/settings';
import type { JobRow } from '../../engine/store/jobs';
import { ask, shownError, useResource, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { allowNotices } from '../state/jobs';
import { go } from '../state/location';
import { Field, filled, Fold, LinesField, NumberField, Tick } from '../ui/Fields';
import { Later } from '../ui/Later';
import { ErrorBox, Loading } from '../ui/parts';
import { ListField } from './ListField';
import { settingsSentence } from './settingsWords';
import { SignIn } from './SignIn';
import { island } from '../frame/island';

// It brings the list of public suffixes along.
const ScopePreview = lazy(() => import('./ScopePreview'));

/** Starts a sweep: one click with what is set, everything else folded away. */
export function NewSweepScreen({ siteId }: { siteId: number }) {
  const { site } = useBench();
  const stored = useResource<SweepSettings>(`/api/sites/${siteId}/settings`);
  const [settings, setSettings] = useState(stored.value);
  const [busy, setBusy] = useState<'start' | 'save'>();
  const [saved, setSaved] = useState(false);
  const [error, setError] = useState<ShownError>();
  useEffect(() => setSettings(stored.value), [stored.value]);
  if (stored.error) return <ErrorBox error={stored.error} retry={stored.reload} />;
  if (!settings) return <Loading what="Reading how this site is swept" />;
  const set = (values: Partial<SweepSettings>) => {
    setSaved(false);
    setSettings({ ...settings, ...values });
  };
  const setCaptures = (values: Partial<SweepSettings['captures']>) =>
    set({ captures: { ...settings.captures, ...values } });
  const send = async (what: 'start' | 'save') => {
    setBusy(what);
    setError(undefined);
    const init = { headers: { 'content-type': 'application/json' }, body: JSON.stringify(clean(settings)) };
    try {
      if (what === 'save') {
        await ask(`/api/sites/${siteId}/settings`, { method: 'PUT', ...init });
        setSaved(true);
      } else {
        allowNotices();
        const job = await ask<JobRow>(`/api/sites/${siteId}/sweeps`, { method: 'POST', ...init });
        go(`/sites/${siteId}/jobs/${job.id}`);
      }
    } catch (e) {
      setError(shownError(e));
    }
    setBusy(undefined);
  };
  return (
    <div className="form">
      <h1 className="serif">Sweep {hostOf(settings.home) || site.value?.name}</h1>
      <p className="lead">{settingsSentence(settings)}</p>
      <p className="tools">
        <button className="button solid" disabled={busy !== undefined} onClick={() => void send('start')}>
          {busy === 'start' ? 'Starting' : 'Start the sweep'}
        </button>
        <button className="link" disabled={busy !== undefined} onClick={() => void send('save')}>
          Save settings
        </button>
        {saved && (
          <span className="gain" role="status">
            Saved.
          </span>
        )}
      </p>
      {error && <ErrorBox error={error} />}
      <Pace settings={settings} set={set} />
      <Fold title="Where pages come from" open={settings.list.length > 0}>
        <Field label="Home address">
          {(id) => (
            <input id={id} type="url" value={settings.home} onChange={(e) => set({ home: e.target.value.trim() })} />
          )}
        </Field>
        <Field label="Sources">
          {() => (
            <>
              <Tick
                label="Links from the home page on"
                value={settings.followLinks}
                onChange={(v) => set({ followLinks: v })}
              />
              <Tick
                label="Sitemaps, as robots.txt names them, and /sitemap.xml"
                value={settings.sitemaps}
                onChange={(v) => set({ sitemaps: v })}
              />
            </>
          )}
        </Field>
        <ListField home={settings.home} value={settings.list} onChange={(list) => set({ list })} />
      </Fold>
      <Fold title="Scope" open={settings.include.length + settings.exclude.length > 0}>
        {(opened) => (
          <>
            <Field label="Hosts">
              {() => (
                <Tick
                  label={`Subdomains of ${hostOf(settings.home).replace(/^www\./, '')} too`}
                  value={settings.subdomains}
                  onChange={(v) => set({ subdomains: v })}
                />
              )}
            </Field>
            <Field
              label="Include URLs"
              help="A folder such as /talks/, or * for anything: /plants/*print, *.pdf. One a line."
            >
              {(id) => <LinesField id={id} value={settings.include} onChange={(include) => set({ include })} />}
            </Field>
            <Field label="Exclude URLs">
              {(id) => <LinesField id={id} value={settings.exclude} onChange={(exclude) => set({ exclude })} />}
            </Field>
            {opened && (
              <Later>
                <ScopePreview siteId={siteId} settings={settings} />
              </Later>
            )}
            <Field
              label="Parameters to ignore"
              help="Query parameters that do not make another page, such as campaign tags: utm_*."
            >
              {(id) => (
                <LinesField
                  id={id}
                  rows={2}
                  value={settings.ignoreParameters}
                  onChange={(v) => set({ ignoreParameters: v })}
                />
              )}
            </Field>
            <Field label="Pages at most">
              {(id) => (
                <NumberField
                  id={id}
                  value={settings.maxPages}
                  min={1}
                  max={1_000_000}
                  onChange={(v) => set({ maxPages: v })}
                />
              )}
            </Field>
            <Field label="Depth at most" help="Links from the home page.">
              {(id) => (
                <NumberField
                  id={id}
                  value={settings.maxDepth}
                  min={0}
                  max={1000}
                  onChange={(v) => set({ maxDepth: v })}
                />
              )}
            </Field>
          </>
        )}
      </Fold>
      <Fold title="Robots rules">
        <Field label="Robots rules">
          {() => (
            <>
              <Tick label="Obey robots.txt" value={settings.obeyRobots} onChange={(v) => set({ obeyRobots: v })} />
              <Tick
                label="Leave out pages marked noindex"
                value={settings.obeyNoindex}
                onChange={(v) => set({ obeyNoindex: v })}
              />
              <Tick
                label="Do not follow links marked nofollow"
                value={settings.obeyNofollow}
                onChange={(v) => set({ obeyNofollow: v })}
              />
            </>
          )}
        </Field>
      </Fold>
      <SignIn settings={settings} set={set} />
      <Fold title="What is recorded by a browser">
        <Field
          label="Pages at most"
          help="The home page, pinned pages, then the most linked page of each template; 0 records none."
        >
          {(id) => (
            <NumberField
              id={id}
              value={settings.captures.maxPages}
              min={0}
              max={1000}
              onChange={(v) => setCaptures({ maxPages: v })}
            />
          )}
        </Field>
        <Field label="Order">
          {(id) => (
            <select
              id={id}
              value={settings.captures.order}
              onChange={(e) => setCaptures({ order: e.target.value as 'links-in' })}
            >
              <option value="template-size">one a template, largest templates first</option>
              <option value="links-in">one a template, most linked pages first</option>
              <option value="all-pages">one a template, then all other pages</option>
            </select>
          )}
        </Field>
        <Field label="As">
          {() =>
            (['phone', 'desktop'] as const).map((d) => (
              <Tick
                key={d}
                label={d}
                value={settings.captures.devices.includes(d)}
                onChange={(on) =>
                  setCaptures({
                    devices: (['phone', 'desktop'] as const).filter((x) =>
                      x === d ? on : settings.captures.devices.includes(x),
                    ),
                  })
                }
              />
            ))
          }
        </Field>
        <Field label="Pinned pages" help="Recorded in any case. One address a line.">
          {(id) => <LinesField id={id} value={settings.captures.pins} onChange={(pins) => setCaptures({ pins })} />}
        </Field>
        <Field
          label="Recordings of each page"
          help="Three tell what is the page’s from what a busy moment adds, and forecasts come closer; one is quick."
        >
          {(id) => (
            <NumberField
              id={id}
              value={settings.captures.runs}
              min={1}
              max={9}
              onChange={(v) => setCaptures({ runs: v })}
            />
          )}
        </Field>
        <Field
          label="Browsers at a time"
          help="One for each core of this machine at most; more would disturb each other."
        >
          {(id) => (
            <NumberField
              id={id}
              value={settings.captures.browsers}
              min={1}
              max={16}
              onChange={(v) => setCaptures({ browsers: v })}
            />
          )}
        </Field>
        <Field
          label="Sweeps that keep their files"
          help="Of older ones findings, fixes and figures stay; their sources and pictures go. 0 stands for all."
        >
          {(id) => (
            <NumberField
              id={id}
              value={settings.captures.keepSweeps ?? 0}
              min={0}
              max={1000}
              onChange={(v) => setCaptures({ keepSweeps: v })}
            />
          )}
        </Field>
      </Fold>
    </div>
  );
}

function Pace({ settings, set }: { settings: SweepSettings; set: (values: Partial<SweepSettings>) => void }) {
  const preset = presetOf(settings);
  return (
    <>
      <h2>Request rate</h2>
      <div className="presets" role="radiogroup" aria-label="Request rate">
        {PRESETS.map((p) => (
          <button
            key={p.id}
            role="radio"
            aria-checked={p === preset}
            className={p === preset ? 'on' : ''}
            onClick={() => set(p.values)}
          >
            <b>{p.name}</b>
            <span className="small">{p.means}</span>
          </button>
        ))}
      </div>
      <p className="tools">
        <label>
          Requests a second to a host (0 sets no limit){' '}
          <NumberField
            value={settings.perSecond}
            min={0}
            max={1000}
            step={0.5}
            onChange={(v) => set({ perSecond: v })}
          />
        </label>
        <label>
          at a time <NumberField value={settings.parallel} min={1} max={64} onChange={(v) => set({ parallel: v })} />
        </label>
        {!preset && <span className="soft">custom</span>}
      </p>
    </>
  );
}

/** Settings as they are sent: lines without empty ones. */
function clean(s: SweepSettings): unknown {
  return {
    ...s,
    include: filled(s.include),
    exclude: filled(s.exclude),
    ignoreParameters: filled(s.ignoreParameters),
    mapHosts: filled(s.mapHosts),
    headers: s.headers.filter((h) => h.name.trim()),
    basicAuth: s.basicAuth?.username ? s.basicAuth : null,
    captures: { ...s.captures, pins: filled(s.captures.pins) },
  };
}

export default island(NewSweepScreen, 'site');
