import { useState } from 'react';
import type { Muting, PageChange, Part } from '../../core/watch/pageChange';
import { announceChange, shownError, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { setQuery, useLocation } from '../state/location';
import { JobLine, useSiteJob } from '../sweep/SiteJob';
import { count, dayTime } from '../ui/format';
import { Fold } from '../ui/Fields';
import { ErrorBox } from '../ui/parts';
import { UndoNotice, useUndo } from '../ui/UndoNotice';
import { send } from '../state/send';
import type { WatchAnswer } from './watchPath';

type Watched = WatchAnswer['pages'][number];

const NAMES: Readonly<Record<Part, string>> = {
  status: 'Status',
  address: 'Address after redirects',
  title: 'Title',
  description: 'Description',
  canonical: 'Canonical',
  robots: 'Robots',
  language: 'Language',
  hero: 'Hero',
  headings: 'Headings',
  text: 'Text',
  structure: 'Markup',
  'third parties': 'Third parties',
  headers: 'Headers',
};

/** What changed on chosen pages, with what is left aside. */
export function ChangesView({ watch, reload }: { watch: WatchAnswer; reload: () => void }) {
  const { siteId } = useBench();
  const { query } = useLocation();
  const [error, setError] = useState<ShownError>();
  const undo = useUndo();
  const path = `/api/sites/${siteId}/watched-pages`;
  const job = useSiteJob(siteId, 'changes', reload);
  const run = (done: Promise<unknown>) => {
    setError(undefined);
    return done.then(reload).catch((e: unknown) => setError(shownError(e)));
  };
  const only = Number(query.get('page')) || undefined;
  const seen = watch.visits.filter((v) => (v.changes && v.changes.length > 0) || v.error);
  const shown = seen.filter((v) => only === undefined || v.watchedId === only);
  const remove = (p: Watched) =>
    run(
      send(`${path}/${p.id}`, 'DELETE').then(() =>
        undo.offer(`${p.url} is watched no longer, and what was seen of it is gone.`, () =>
          send(path, 'POST', { urls: [p.url] }).then(reload),
        ),
      ),
    );
  const mute = (page: Watched, muting: Muting) =>
    run(
      send(`${path}/${page.id}`, 'PUT', { mutings: [...page.mutings, muting] }).then(() =>
        undo.offer(`Left aside from now on: ${mutingText(muting)}.`, () =>
          send(`${path}/${page.id}`, 'PUT', { mutings: page.mutings }).then(reload),
        ),
      ),
    );
  return (
    <>
      <AddPages known={watch.pages} add={(urls) => send(path, 'POST', { urls }).then(reload)} />
      <UndoNotice undo={undo} />
      {error && <ErrorBox error={error} />}
      {watch.pages.length > 0 && (
        <div className="tools">
          {job ? (
            <JobLine job={job} />
          ) : (
            <button
              data-needs="auditor"
              className="put"
              onClick={() => void run(send(`/api/sites/${siteId}/changes`, 'POST').then(announceChange))}
            >
              Look now
            </button>
          )}
          <select
            aria-label="Changes of"
            value={only ?? ''}
            onChange={(e) => setQuery({ page: e.target.value || null })}
          >
            <option value="">{count(watch.pages.length, 'watched page')}</option>
            {watch.pages.map((p) => (
              <option key={p.id} value={p.id}>
                {p.url}
              </option>
            ))}
          </select>
        </div>
      )}
      {watch.pages.length > 0 && shown.length === 0 && (
        <p className="soft">
          {watch.visits.length === 0
            ? 'Not visited yet. The first look keeps what the page is; later ones show what changed.'
            : 'No change has been seen.'}
        </p>
      )}
      {shown.map((visit) => {
        const page = watch.pages.find((p) => p.id === visit.watchedId);
        return (
          page && (
            <section
              key={visit.id}
              id={`visit-${visit.id}`}
              className="visit"
              aria-label={`${page.url}, ${dayTime(visit.seenAt)}`}
            >
              <h3>
                {page.url.replace(/^https?:\/\//, '')} <span className="soft small">{dayTime(visit.seenAt)}</span>
              </h3>
              {visit.error && <p className="cost">Not seen: {visit.error}</p>}
              {visit.changes && <ChangeTable changes={visit.changes} mute={(m) => void mute(page, m)} />}
            </section>
          )
        );
      })}
      {watch.pages.length > 0 && (
        <Fold title={`Watched pages and what is left aside (${watch.pages.length})`}>
          <ul className="watched">
            {watch.pages.map((p) => (
              <li key={p.id}>
                <div className="between">
                  <span className="strong">{p.url}</span>
                  <button data-needs="auditor" className="link" onClick={() => void remove(p)}>
                    Watch it no longer
                  </button>
                </div>
                {p.mutings.map((m, i) => (
                  <div key={i} className="small">
                    Left aside by hand: {mutingText(m)}{' '}
                    <button
                      className="link"
                      onClick={() =>
                        void run(send(`${path}/${p.id}`, 'PUT', { mutings: p.mutings.filter((_, k) => k !== i) }))
                      }
                    >
                      Look at it again
                    </button>
                  </div>
                ))}
                {p.learned.length > 0 && (
                  <div className="soft small">
                    Differs between two visits at once, so it is left aside:{' '}
                    {p.learned.slice(0, 12).map(mutingText).join('; ')}
                    {p.learned.length > 12 && ` and ${p.learned.length - 12} more`}.
                  </div>
                )}
              </li>
            ))}
          </ul>
        </Fold>
      )}
    </>
  );
}

const mutingText = ({ part, where }: Muting) => `${NAMES[part].toLowerCase()}${where ? ` at ${where}` : ''}`;

function ChangeTable({ changes, mute }: { changes: readonly PageChange[]; mute: (m: Muting) => void }) {
  return (
    <table className="plain changes">
      <tbody>
        {changes.map((c, i) => (
          <tr key={i}>
            <th scope="row">
              {NAMES[c.part]}
              {c.where && c.part !== 'third parties' && c.part !== 'headings' && (
                <div className="soft small mono clip" title={c.where}>
                  {c.where}
                </div>
              )}
            </th>
            <td>
              {c.words.map((w, k) =>
                w.kind === 'same' ? (
                  <span key={k}>{shortened(w.text, k === 0, k === c.words.length - 1)}</span>
                ) : w.kind === 'removed' ? (
                  <del key={k}>{w.text}</del>
                ) : (
                  <ins key={k}>{w.text}</ins>
                ),
              )}
            </td>
            <td className="right-end">
              <button
                data-needs="auditor"
                className="link small"
                onClick={() => mute(c.where ? { part: c.part, where: c.where } : { part: c.part })}
              >
                Leave aside
              </button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const CONTEXT = 90;

/** What stayed the same around a change: its nearest words do. */
function shortened(text: string, first: boolean, last: boolean): string {
  if (text.length <= 2 * CONTEXT) return text;
  if (first) return `…${text.slice(-CONTEXT)}`;
  if (last) return `${text.slice(0, CONTEXT)}…`;
  return `${text.slice(0, CONTEXT)} … ${text.slice(-CONTEXT)}`;
}

function AddPages({ known, add }: { known: readonly Watched[]; add: (urls: string[]) => Promise<void> }) {
  const { pages } = useBench();
  const [url, setUrl] = useState('');
  const [error, setError] = useState<ShownError>();
  const submit = (urls: string[]) => {
    setError(undefined);
    add(urls)
      .then(() => setUrl(''))
      .catch((e: unknown) => setError(shownError(e)));
  };
  const rest = pages.filter((p) => !known.some((k) => k.url === p.page));
  return (
    <>
      <form
        data-needs="auditor"
        className="tools"
        onSubmit={(e) => {
          e.preventDefault();
          if (url.trim()) submit([url.trim()]);
        }}
      >
        <input
          className="wide"
          aria-label="Address of a page to watch"
          placeholder="https://www.fernhollow.example/visit/"
          list="recorded-pages"
          value={url}
          onChange={(e) => setUrl(e.target.value)}
        />
        <datalist id="recorded-pages">
          {rest.map((p) => (
            <option key={p.captureId} value={p.page}>
              {p.title}
            </option>
          ))}
        </datalist>
        <button className="put" disabled={url.trim() === ''}>
          Watch this page
        </button>
        {rest.length > 0 && (
          <button type="button" className="link" onClick={() => submit(rest.map((p) => p.page))}>
            Watch all {count(rest.length, 'recorded page')}
          </button>
        )}
      </form>
      {error && <ErrorBox error={error} />}
    </>
  );
}
