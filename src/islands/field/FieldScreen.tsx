import { useState } from 'react';
import { FIELD_NAMES, ratingOf, type FieldMetric, type FieldRow, type Shares } from '../../core/field/fieldData';
import { island } from '../frame/island';
import { monthText } from '../../core/field/words';
import { announceChange, ask, shownError, useResource, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { send } from '../state/send';
import { count, ms } from '../ui/format';
import { Fold } from '../ui/Fields';
import { ErrorBox, Loading } from '../ui/parts';
import { To } from '../ui/To';
import { FittedView } from './FittedView';
import { fieldPath, type FieldAnswer } from './fieldPath';

const METRICS: readonly FieldMetric[] = ['ttfbMs', 'fcpMs', 'lcpMs', 'cls', 'inpMs'];

/** What real visits came to, beside the lab; and visitors fitted to them. */
function FieldScreen() {
  const { siteId, sweepId, visitor } = useBench();
  const field = useResource<FieldAnswer>(sweepId ? fieldPath(siteId, sweepId, visitor.id) : undefined);
  const value = field.value;
  return (
    <>
      <h1 className="serif">Field data</h1>
      <p className="serif-text lead">{value ? sentenceOf(value) : 'What real visits to these pages came to.'}</p>
      <AddField siteId={siteId} files={value?.files ?? []} reload={field.reload} />
      {field.error && <ErrorBox error={field.error} retry={field.reload} />}
      {!value && field.loading && <Loading what="Reading field data" />}
      {value && value.files.length > 0 && sweepId && (
        <>
          {value.fittable > 0 && (
            <FittedView key={value.device} answer={value} sweepId={sweepId} reload={field.reload} />
          )}
          <h2>Field and lab, page by page</h2>
          <p className="soft">
            p75 of the {value.device} visitors{value.month && `, ${monthText(value.month)}`}, beside the forecast for{' '}
            {visitor.name}. A page without figures of its own has those of its whole origin.
          </p>
          <PageTable answer={value} />
        </>
      )}
    </>
  );
}

function sentenceOf({ files, pages, month, device, origin }: FieldAnswer): string {
  if (files.length === 0)
    return 'No field data yet. With it, forecasts can be given for the visitors who really come to this site.';
  const own = pages.filter((p) => p.row?.of === 'page');
  const when = month ? ` in ${monthText(month)}` : '';
  const whole = origin?.p75.lcpMs;
  const parts = [
    `${count(own.length, 'recorded page has', 'recorded pages have')} figures of real ${device} visits${when}`,
    ...(whole === undefined
      ? []
      : [`three of four visits to the whole origin see the hero within ${ms(whole)} (${ratingOf('lcpMs', whole)})`]),
  ];
  return `${parts.join('; ')}.`;
}

function AddField(props: { siteId: number; files: FieldAnswer['files']; reload: () => void }) {
  const { siteId, files, reload } = props;
  const [error, setError] = useState<ShownError>();
  const [busy, setBusy] = useState(false);
  const path = `/api/sites/${siteId}/field`;
  const run = (work: Promise<unknown>) => {
    setError(undefined);
    setBusy(true);
    work
      .then(announceChange)
      .then(reload)
      .catch((e: unknown) => setError(shownError(e)))
      .finally(() => setBusy(false));
  };
  const add = (file: File | undefined) =>
    file && run(ask(path, { method: 'POST', headers: { 'x-file-name': encodeURIComponent(file.name) }, body: file }));
  return (
    <Fold title={files.length > 0 ? `Files (${files.length})` : 'Add field data'} open={files.length === 0}>
      <p className="soft">
        CSV or JSON of p75s (or histograms) of TTFB, FCP, LCP, CLS, INP by URL or origin, device and month; or lines of
        JSON of single visits. What the columns mean is told by their names.
      </p>
      <p className="tools">
        <label data-needs="auditor" className="button">
          Choose a file
          <input
            type="file"
            aria-label="File of field data"
            accept=".csv,.tsv,.json,.ndjson,.txt"
            onChange={(e) => {
              add(e.target.files?.[0]);
              e.target.value = '';
            }}
          />
        </label>
        {busy && <Loading what="Reading the file" />}
      </p>
      {error && <ErrorBox error={error} />}
      {files.map((f) => (
        <p key={f.id}>
          <span className="strong">{f.name}</span>{' '}
          <span className="soft">
            read as {f.readAs}, {count(f.count, 'row')}
            {f.unread.count > 0 && `; ${count(f.unread.count, 'row')} not read: ${f.unread.examples.join('; ')}`}
          </span>{' '}
          <button data-needs="auditor" className="link" onClick={() => run(send(`${path}/${f.id}`, 'DELETE'))}>
            Remove
          </button>
        </p>
      ))}
    </Fold>
  );
}

function PageTable({ answer }: { answer: FieldAnswer }) {
  const { base } = useBench();
  const shown = METRICS.filter((m) => answer.pages.some((p) => p.row?.p75[m] !== undefined));
  if (shown.length === 0)
    return <p className="soft">None of these figures belongs to a recorded page of this sweep.</p>;
  return (
    <table className="rows field-rows">
      <thead>
        <tr>
          <th>Page</th>
          {shown.map((m) => (
            <th key={m} className="right">
              {FIELD_NAMES[m]}
            </th>
          ))}
          <th>Hero paint of all visits</th>
        </tr>
      </thead>
      <tbody>
        {answer.pages.map((p) => (
          <tr key={p.captureId}>
            <td>
              <To to={`${base}/pages/${p.captureId}`}>{p.title || p.page}</To>
              <div className="soft small">
                {p.row
                  ? p.row.of === 'page'
                    ? p.row.visits
                      ? count(p.row.visits, 'visit')
                      : 'of this page'
                    : 'of the whole origin'
                  : 'nothing known'}
              </div>
              {p.reasons.map((r) => (
                <div key={r.reason} className="small reason">
                  {r.reason}: <span className="soft">{r.because}</span>
                </div>
              ))}
            </td>
            {shown.map((m) => (
              <td key={m} className="right">
                <Both metric={m} row={p.row} lab={m === 'inpMs' ? undefined : p.lab[m]} />
              </td>
            ))}
            <td>{p.row?.shares.lcpMs && <SharesBar shares={p.row.shares.lcpMs} />}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const figure = (metric: FieldMetric, value: number) => (metric === 'cls' ? value.toFixed(2) : ms(value));

function Both({ metric, row, lab }: { metric: FieldMetric; row: FieldRow | undefined; lab: number | undefined }) {
  const field = row?.p75[metric];
  return (
    <>
      <span className="strong">{field === undefined ? '–' : figure(metric, field)}</span>
      {field !== undefined && <div className="soft small">{ratingOf(metric, field)}</div>}
      {lab !== undefined && <div className="soft small">lab {figure(metric, lab)}</div>}
    </>
  );
}

/** Shares as lengths with their words, in ink: no traffic light. */
function SharesBar({ shares }: { shares: Shares }) {
  const percent = (share: number) => `${Math.round(share * 100)} %`;
  const length = (share: number) => `${(share * 100).toFixed(1)}%`;
  const text = `${percent(shares.good)} good, ${percent(shares.middling)} need work, ${percent(shares.poor)} poor`;
  return (
    <>
      <span className="shares" role="img" aria-label={text}>
        <i className="good" style={{ width: length(shares.good) }} />
        <i className="middling" style={{ width: length(shares.middling) }} />
        <i className="poor" style={{ width: length(shares.poor) }} />
      </span>
      <div className="soft small">{text}</div>
    </>
  );
}

export default island(FieldScreen, 'recordings');
