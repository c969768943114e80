import { useMemo, useState } from 'react';
import { CONCERNS } from '../../core/checks/concern';
import type { Limits, Threshold } from '../../core/checks/finding';
import type { CheckWords } from '../../core/checks/words';
import { limitText } from '../../core/checks/texts';
import type { MuteRow } from '../../engine/store/mutes';
import { unmute } from '../findings/MuteForm';
import { ask, shownError, useResource, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { useChecks } from '../state/checks';
import { isOpen, useJobs } from '../state/jobs';
import { setQuery, useLocation } from '../state/location';
import type { CausesAnswer } from '../concern/causes';
import { Editable } from '../ui/Editable';
import { count } from '../ui/format';
import { ErrorBox, Loading, HeadUnseen } from '../ui/parts';
import { To } from '../ui/To';
import { island } from '../frame/island';

/** Every check: what it asks, looks at and cannot see, what it found, its limits for this site; and what is muted. */
export function ChecksScreen({ siteId }: { siteId: number }) {
  const bench = useBench();
  const { query } = useLocation();
  const words = (query.get('search') ?? '').toLowerCase();
  const checks = useChecks();
  const device = bench.data.value?.device ?? 'phone';
  const limits = useResource<Limits>(`/api/sites/${siteId}/limits`);
  const mutes = useResource<readonly MuteRow[]>(`/api/sites/${siteId}/mutes`);
  const { jobs } = useJobs();
  const open = jobs?.find((j) => j.kind === 'examine' && j.siteId === siteId && isOpen(j));
  const found = useResource<CausesAnswer>(
    bench.sweepId === undefined ? undefined : `/api/sweeps/${bench.sweepId}/causes?device=${device}&limit=1`,
    jobs && `${open?.id ?? ''} ${jobs.filter((j) => j.kind === 'examine' && !isOpen(j)).length}`,
  );
  const [draft, setDraft] = useState<Limits>();
  const [error, setError] = useState<ShownError>();
  // The examination that the last save started.
  const [started, setStarted] = useState<number>();
  const own = jobs?.find((j) => j.id === started);
  const shown = draft ?? limits.value;
  const counts = useMemo(() => new Map(found.value?.facets.checks.map((f) => [f.value, f.causes])), [found.value]);
  const save = (next: Limits) => {
    setError(undefined);
    ask<{ job: number }>(`/api/sites/${siteId}/limits`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(next),
    })
      .then(({ job }) => (setDraft(undefined), setStarted(job), limits.reload()))
      .catch((e: unknown) => setError(shownError(e)));
  };
  const change = (key: string, value: number | undefined) => {
    const rest = Object.fromEntries(Object.entries(shown ?? {}).filter(([name]) => name !== key));
    setStarted(undefined);
    setDraft(value === undefined ? rest : { ...rest, [key]: value });
  };
  const fits = (c: CheckWords) => `${c.id} ${c.question} ${c.examines}`.toLowerCase().includes(words);
  return (
    <>
      <h1 className="serif">Checks and limits</h1>
      <p className="soft lead">
        Every check runs on every capture: {count(checks.length, 'check')} in all. Limits can differ from site to site.
      </p>
      <div className="tools">
        <input
          type="search"
          aria-label="Search checks"
          placeholder="Search checks"
          value={query.get('search') ?? ''}
          onChange={(e) => setQuery({ search: e.target.value || null })}
        />
        {draft && (
          <>
            <button data-needs="auditor" className="button solid" onClick={() => save(draft)}>
              Save and run checks again
            </button>
            <button className="link" onClick={() => setDraft(undefined)}>
              Discard
            </button>
          </>
        )}
        {(open ?? (started !== undefined && !own)) ? (
          <Loading
            what={`Examining the captures by these limits: ${open?.progress?.done ?? 0} of ${open?.progress?.total ?? '…'}`}
          />
        ) : (
          own && (
            <span role="status">
              {own.state === 'done'
                ? 'Saved; the captures were examined by these limits.'
                : `Saved; the examination is ${own.state}: see Jobs.`}
            </span>
          )
        )}
        {Object.keys(limits.value ?? {}).length > 0 && !draft && (
          <button data-needs="auditor" className="link" onClick={() => save({})}>
            All limits back to their defaults
          </button>
        )}
      </div>
      {(error ?? limits.error) && <ErrorBox error={(error ?? limits.error) as ShownError} />}
      <Muted
        mutes={mutes.value ?? []}
        onUnmute={(m) => void unmute(siteId, m.id).then(() => (mutes.reload(), found.reload(), bench.data.reload()))}
      />
      {CONCERNS.map(({ id, name }) => {
        const own = checks.filter((c) => c.concern === id && fits(c));
        if (own.length === 0) return null;
        return (
          <section key={id} aria-label={name}>
            <h2 className="serif">{name}</h2>
            <table className="rows checks-table">
              <thead>
                <tr>
                  <th>Question</th>
                  <th>Examines</th>
                  <th>Cannot see</th>
                  <th>Limits</th>
                  <th className="right">Causes</th>
                </tr>
              </thead>
              <tbody>
                {own.map((c) => (
                  <tr key={c.id}>
                    <td>
                      <b>{c.question}</b>
                      <span className="mono small soft source-line">{c.id}</span>
                      <span className="small soft source-line">{c.standard}</span>
                    </td>
                    <td className="small">{c.examines}</td>
                    <td className="small soft">{c.cannotSee}</td>
                    <td>
                      {(c.thresholds ?? []).map((t) => (
                        <Limit
                          key={t.id}
                          check={c.id}
                          threshold={t}
                          value={shown?.[`${c.id}.${t.id}`]}
                          onChange={(value) => change(`${c.id}.${t.id}`, value)}
                        />
                      ))}
                    </td>
                    <td className="right">
                      {counts.get(c.id) ? (
                        <To className="link" to={`/sites/${siteId}/concerns/${c.concern}?check=${c.id}`}>
                          {counts.get(c.id)}
                        </To>
                      ) : (
                        <span className="soft">none</span>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        );
      })}
    </>
  );
}

/** Shares are typed in percent, seconds of caching in days, everything else as it is. */
const factorOf = (t: Threshold) => ({ share: 100, s: 1 / 86_400 })[t.unit as 'share'] ?? 1;
const unitOf = (t: Threshold) => ({ share: '%', count: '', bytes: 'bytes', ms: 'ms', s: 'days', px: 'px' })[t.unit];

function Limit(props: {
  check: string;
  threshold: Threshold;
  value: number | undefined;
  onChange: (value: number | undefined) => void;
}) {
  const { threshold: t, value } = props;
  const factor = factorOf(t);
  const changed = value !== undefined && value !== t.value;
  return (
    <div className="limit">
      <label>
        <span className="small">{t.name}</span>{' '}
        <Editable needs="auditor" says={limitText(t, value ?? t.value)}>
          <input
            type="number"
            min={0}
            value={Math.round((value ?? t.value) * factor * 1000) / 1000}
            onChange={(e) => {
              const n = e.target.valueAsNumber;
              if (Number.isFinite(n) && n >= 0) props.onChange(n / factor === t.value ? undefined : n / factor);
            }}
            aria-label={`${props.check} ${t.id}`}
          />{' '}
          {unitOf(t)}
        </Editable>
      </label>
      <small className="soft">
        {changed ? (
          <>
            default {limitText(t, t.value)}{' '}
            <button data-needs="auditor" className="link" onClick={() => props.onChange(undefined)}>
              Reset
            </button>
            .{' '}
          </>
        ) : (
          ''
        )}
        {t.why}
      </small>
    </div>
  );
}

function Muted({ mutes, onUnmute }: { mutes: readonly MuteRow[]; onUnmute: (m: MuteRow) => void }) {
  if (mutes.length === 0) return null;
  return (
    <section aria-label="Muted">
      <h2 className="serif">Muted</h2>
      <table className="rows">
        <thead>
          <tr>
            <th>What</th>
            <th>Reason</th>
            <th>Since</th>
            <HeadUnseen>Unmute</HeadUnseen>
          </tr>
        </thead>
        <tbody>
          {mutes.map((m) => (
            <tr key={m.id}>
              <td>
                {m.scope === 'check' ? (
                  <>
                    the whole check <span className="mono">{m.check}</span>
                  </>
                ) : (
                  <>
                    {m.title} <span className="mono small soft">{m.check}</span>
                  </>
                )}
              </td>
              <td>{m.reason}</td>
              <td className="soft">{m.createdAt.slice(0, 10)}</td>
              <td className="right">
                <button data-needs="auditor" className="link" onClick={() => onUnmute(m)}>
                  Unmute
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

export default island(ChecksScreen, 'recordings');
