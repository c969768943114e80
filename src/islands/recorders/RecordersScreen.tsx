import { useEffect, useState } from 'react';
import { SILENT_MS, type RecorderRow } from '../../core/fleet/recorder';
import { HomeBar } from '../frame/HomeBar';
import { island } from '../frame/island';
import { shownError, useAwake, useResource, type ShownError } from '../state/api';
import { send } from '../state/send';
import { count, dayTime } from '../ui/format';
import { ErrorBox, HeadUnseen, Loading, Term } from '../ui/parts';
import { RECORDERS, type RecordersAnswer } from './recordersPath';

/** How often the list is asked for, in ms. */
const AGAIN_MS = 5000;

/** Recorders elsewhere: which are there, what they do, how fast, and what waits for them. */
function RecordersScreen() {
  const list = useResource<RecordersAnswer>(RECORDERS);
  const [error, setError] = useState<ShownError>();
  const { reload } = list;
  useEffect(() => {
    const timer = setInterval(reload, AGAIN_MS);
    return () => clearInterval(timer);
  }, [reload]);
  const value = list.value;
  const remove = (row: RecorderRow) =>
    void send(`/api/recorders/${row.id}`, 'DELETE')
      .then(reload)
      .catch((e: unknown) => setError(shownError(e)));
  return (
    <>
      <HomeBar />
      <main id="main" tabIndex={-1} className="home">
        <h1 className="serif">Recorders</h1>
        {value && <p className="serif-text lead">{sentenceOf(value)}</p>}
        {list.error && <ErrorBox error={list.error} retry={reload} />}
        {error && <ErrorBox error={error} />}
        {!value && list.loading && <Loading what="Reading recorders" />}
        {value && value.recorders.length > 0 && (
          <div className="wide-rows">
            <table className="rows">
              <thead>
                <tr>
                  <th>Recorder</th>
                  <th>Place</th>
                  <th>Does now</th>
                  <th className="right">
                    <Term means="Recordings a minute over the last ten minutes.">A minute</Term>
                  </th>
                  <th className="right">
                    <Term means="Recordings, probes and proofs that this recorder has handed in.">Done</Term>
                  </th>
                  <th className="right">
                    <Term means="Recordings, probes and proofs that could not be made, as this recorder said.">
                      Failed
                    </Term>
                  </th>
                  <th>Last sign of life</th>
                  <HeadUnseen>Remove</HeadUnseen>
                </tr>
              </thead>
              <tbody>
                {value.recorders.map((r) => (
                  <Row key={r.id} row={r} remove={() => remove(r)} />
                ))}
              </tbody>
            </table>
          </div>
        )}
        {value && <HowTo hasQueue={value.hasQueue} />}
      </main>
    </>
  );
}

function Row({ row: r, remove }: { row: RecorderRow; remove: () => void }) {
  // The server's clock and the browser's may differ by the time that the page takes: only a browser compares.
  const gone = useAwake() && Date.now() - r.lastSeen > SILENT_MS;
  return (
    <tr className={gone ? 'off' : ''}>
      <td>
        <span className="strong">{r.name}</span>
        <div className="soft small">
          Chromium {r.chromium}, {count(r.slots, 'recording')} at a time{r.rootLink && ', links of its own'}
        </div>
      </td>
      <td>{r.region}</td>
      <td>
        {gone || r.busy.length === 0 ? (
          <span className="soft">{r.ending ? 'ending' : 'nothing'}</span>
        ) : (
          r.busy.map((page) => (
            <div key={page} className="mono small">
              {page}
            </div>
          ))
        )}
      </td>
      <td className="right">{gone ? '–' : r.perMinute.toFixed(1)}</td>
      <td className="right">{r.done.toLocaleString('en-GB')}</td>
      <td className="right">{r.failed.toLocaleString('en-GB')}</td>
      <td>
        {dayTime(new Date(r.lastSeen).toISOString())}
        {gone && <div className="cost small">silent since then</div>}
      </td>
      <td className="right">
        <button data-needs="administrator" className="link soft" onClick={remove} aria-label={`Remove ${r.name}`}>
          remove
        </button>
      </td>
    </tr>
  );
}

function sentenceOf({ hasQueue, sent, recorders }: RecordersAnswer): string {
  if (!hasQueue)
    return 'This server records by itself. For more pages a minute, other machines can record, probe and prove for it.';
  const waiting =
    sent === 0
      ? 'Nothing waits for a recorder.'
      : sent === 1
        ? 'One recording, probe or proof waits or is being made.'
        : `${sent.toLocaleString('en-GB')} recordings, probes and proofs wait or are being made.`;
  if (recorders.length === 0) return `No recorder has come yet. ${waiting}`;
  const speed = recorders.reduce((n, r) => n + r.perMinute, 0);
  return `${count(recorders.length, 'recorder')} known, ${speed.toFixed(1)} recordings a minute. ${waiting}`;
}

function HowTo({ hasQueue }: { hasQueue: boolean }) {
  return (
    <section aria-label="Add a recorder">
      <h2>Add a recorder</h2>
      <ol className="steps">
        {!hasQueue && (
          <li>
            Start Redis or Valkey, and this server with its address:
            <pre className="mono" tabIndex={0}>
              KEEN_LENS_QUEUE=redis://HOST:6379 npm start
            </pre>
          </li>
        )}
        <li>
          Make a token for it on this server:
          <pre className="mono" tabIndex={0}>
            npx keen-lens token attic --scope record -o recorder.token
          </pre>
        </li>
        <li>
          Start it on the other machine, which needs Chromium and reaches both:
          <pre className="mono" tabIndex={0}>
            npx keen-lens recorder --queue redis://HOST:6379 --server https://THIS-SERVER --token-file recorder.token
          </pre>
        </li>
      </ol>
      <p className="soft">
        Removing a recorder loses nothing: what it had goes to another. A host is never asked for more pages at a time
        than the settings of its sweep allow, however many recorders there are. While a recorder makes a proof, it does
        nothing else: a proof measures time.
      </p>
    </section>
  );
}

export default island(RecordersScreen);
