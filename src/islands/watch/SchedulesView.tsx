import { useEffect, useState } from 'react';
import type { Schedule, Scheduled } from '../../core/watch/schedule';
import { announceChange, shownError, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { jobLine } from '../sweep/jobWords';
import { dayTime } from '../ui/format';
import { ErrorBox, HeadUnseen } from '../ui/parts';
import { To } from '../ui/To';
import { UndoNotice, useUndo } from '../ui/UndoNotice';
import { cronOf, cronWords, rhythmOf, WEEKDAYS, type Rhythm } from './cronWords';
import { send } from '../state/send';
import type { WatchAnswer } from './watchPath';

const WHAT: Readonly<Record<Scheduled, { readonly name: string; readonly means: string }>> = {
  sweep: { name: 'Sweep the site', means: 'Visits the pages and records those that matter, as set under New sweep.' },
  recordings: { name: 'Record its pages again', means: 'Records the pages of the latest sweep once more.' },
  probe: { name: 'Probe the entrances', means: 'Asks for every way in, certificates and HSTS.' },
  changes: { name: 'Look for page changes', means: 'Visits the pages that are watched for changes.' },
};

type Row = WatchAnswer['schedules'][number];

/** When something is done by itself. */
export function SchedulesView({ watch, reload }: { watch: WatchAnswer; reload: () => void }) {
  const { siteId } = useBench();
  const [error, setError] = useState<ShownError>();
  const [editing, setEditing] = useState<Row | 'new'>();
  const undo = useUndo();
  const path = `/api/sites/${siteId}/schedules`;
  const run = (done: Promise<unknown>) => {
    setError(undefined);
    return done.then(reload).catch((e: unknown) => setError(shownError(e)));
  };
  const remove = (row: Row) =>
    run(
      send(`${path}/${row.id}`, 'DELETE').then(() =>
        undo.offer(`The schedule is deleted: ${cronWords(row.cron)}.`, () =>
          send(path, 'POST', plain(row)).then(reload),
        ),
      ),
    );
  return (
    <>
      <UndoNotice undo={undo} />
      {error && <ErrorBox error={error} />}
      {watch.schedules.length > 0 && (
        <table className="rows watch-rows">
          <thead>
            <tr>
              <th>What</th>
              <th>When</th>
              <th>Next</th>
              <th>Last</th>
              <HeadUnseen>Do</HeadUnseen>
            </tr>
          </thead>
          <tbody>
            {watch.schedules.map((s) => (
              <tr key={s.id} className={s.on ? '' : 'off'}>
                <td>
                  <span className="strong">{WHAT[s.what].name}</span>
                </td>
                <td>
                  {cronWords(s.cron)}
                  <div className="soft small">
                    {s.zone}
                    {s.quiet && `, not from ${s.quiet.from} to ${s.quiet.to}`}
                  </div>
                </td>
                <td>{s.nextStart ? inZone(s.nextStart, s.zone) : 'switched off'}</td>
                <td>
                  {s.lastError ? (
                    <span className="cost">{s.lastError.what}</span>
                  ) : s.job ? (
                    <To to={`/sites/${siteId}/jobs/${s.job.id}`}>
                      {s.job.state}
                      {s.job.state === 'running' && `: ${jobLine(s.job)}`}
                    </To>
                  ) : (
                    <span className="soft">not yet</span>
                  )}
                  {s.lastStart && <div className="soft small">{dayTime(s.lastStart)}</div>}
                </td>
                <td className="right-end">
                  <button
                    data-needs="auditor"
                    className="link"
                    onClick={() => void run(send(`${path}/${s.id}/start`, 'POST').then(announceChange))}
                  >
                    Run now
                  </button>
                  <button
                    data-needs="auditor"
                    className="link"
                    onClick={() => void run(send(`${path}/${s.id}`, 'PUT', { ...plain(s), on: !s.on }))}
                  >
                    {s.on ? 'Switch off' : 'Switch on'}
                  </button>
                  <button data-needs="auditor" className="link" onClick={() => setEditing(s)}>
                    Change
                  </button>
                  <button data-needs="auditor" className="link" onClick={() => void remove(s)}>
                    Delete
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {watch.schedules.length === 0 && (
        <p className="soft">
          No schedule yet. While the server runs it starts them itself; elsewhere <code>keen-lens watch --once</code>{' '}
          does so from cron or a timer. What was missed is caught up once.
        </p>
      )}
      {editing ? (
        <ScheduleForm
          key={editing === 'new' ? 'new' : editing.id}
          from={editing === 'new' ? undefined : editing}
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
            Add a schedule
          </button>
        </p>
      )}
    </>
  );
}

const plain = ({ what, cron, zone, quiet, on }: Schedule) => ({ what, cron, zone, quiet: quiet ?? null, on });

/** "Mon 7 Dec, 03:00", on the clocks of the schedule. */
function inZone(iso: string, zone: string): string {
  return new Date(iso).toLocaleString('en-GB', {
    timeZone: zone,
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    hour: '2-digit',
    minute: '2-digit',
  });
}

function ScheduleForm(props: {
  from?: Schedule;
  save: (value: ReturnType<typeof plain>) => Promise<void>;
  cancel: () => void;
}) {
  const { from } = props;
  const [what, setWhat] = useState<Scheduled>(from?.what ?? 'sweep');
  const [rhythm, setRhythm] = useState<Rhythm>(
    from ? rhythmOf(from.cron) : { every: 'week', weekday: 1, time: '03:00' },
  );
  const [zone, setZone] = useState(from?.zone ?? 'UTC');
  const [quiet, setQuiet] = useState(from?.quiet);
  const [error, setError] = useState<ShownError>();
  // The clock of whoever fills it in; the server does not know it.
  useEffect(() => {
    if (!from) setZone(Intl.DateTimeFormat().resolvedOptions().timeZone);
  }, [from]);
  const time = rhythm.every === 'own' ? '03:00' : rhythm.time;
  const change = (every: Rhythm['every']) => {
    if (every === 'own') setRhythm({ every, cron: cronOf(rhythm) });
    else if (every === 'week') setRhythm({ every, weekday: 1, time });
    else if (every === 'month') setRhythm({ every, day: 1, time });
    else setRhythm({ every, time });
  };
  return (
    <form
      className="form watch-form"
      aria-label={from ? 'Change the schedule' : 'New schedule'}
      onSubmit={(e) => {
        e.preventDefault();
        setError(undefined);
        props
          .save({ what, cron: cronOf(rhythm), zone, quiet: quiet ?? null, on: from?.on ?? true })
          .catch((fault: unknown) => setError(shownError(fault)));
      }}
    >
      <label>
        What
        <select value={what} onChange={(e) => setWhat(e.target.value as Scheduled)}>
          {Object.entries(WHAT).map(([id, w]) => (
            <option key={id} value={id}>
              {w.name}
            </option>
          ))}
        </select>
        <span className="soft small">{WHAT[what].means}</span>
      </label>
      <div className="watch-when">
        <label>
          How often
          <select value={rhythm.every} onChange={(e) => change(e.target.value as Rhythm['every'])}>
            <option value="day">every day</option>
            <option value="week">every week</option>
            <option value="month">every month</option>
            <option value="own">as crontab fields say</option>
          </select>
        </label>
        {rhythm.every === 'week' && (
          <label>
            Day
            <select value={rhythm.weekday} onChange={(e) => setRhythm({ ...rhythm, weekday: Number(e.target.value) })}>
              {WEEKDAYS.map((name, i) => (
                <option key={name} value={i}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        )}
        {rhythm.every === 'month' && (
          <label>
            Day of the month
            <input
              type="number"
              min={1}
              max={28}
              value={rhythm.day}
              onChange={(e) => setRhythm({ ...rhythm, day: Number(e.target.value) })}
            />
          </label>
        )}
        {rhythm.every === 'own' ? (
          <label>
            Minute, hour, day, month, weekday
            <input
              className="mono"
              value={rhythm.cron}
              onChange={(e) => setRhythm({ ...rhythm, cron: e.target.value })}
            />
          </label>
        ) : (
          <label>
            Time
            <input
              type="time"
              required
              value={rhythm.time}
              onChange={(e) => setRhythm({ ...rhythm, time: e.target.value })}
            />
          </label>
        )}
        <label>
          Time zone
          <input list="zones" value={zone} onChange={(e) => setZone(e.target.value)} />
          <datalist id="zones">
            {Intl.supportedValuesOf('timeZone').map((z) => (
              <option key={z} value={z} />
            ))}
          </datalist>
        </label>
      </div>
      <div className="watch-when">
        <label className="tick-line">
          <input
            type="checkbox"
            checked={quiet !== undefined}
            onChange={(e) => setQuiet(e.target.checked ? { from: '08:00', to: '20:00' } : undefined)}
          />{' '}
          Quiet hours: start nothing
        </label>
        {quiet && (
          <>
            <label>
              from
              <input
                type="time"
                required
                value={quiet.from}
                onChange={(e) => setQuiet({ ...quiet, from: e.target.value })}
              />
            </label>
            <label>
              to
              <input
                type="time"
                required
                value={quiet.to}
                onChange={(e) => setQuiet({ ...quiet, to: e.target.value })}
              />
            </label>
          </>
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
