import { useState } from 'react';
import { proofsPath } from '../proofs/proofsPath';
import { shownError, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { send } from '../state/send';
import { count } from '../ui/format';
import { ErrorBox, Loading } from '../ui/parts';
import { To } from '../ui/To';

/** Has the slowest page filmed, without and with the worthwhile fixes: the strip of the owner's report. */
export default function FilmForm() {
  const { siteId, base, sweepId, visitor, forecast, pages } = useBench();
  const [error, setError] = useState<ShownError>();
  const [started, setStarted] = useState(false);
  if (!forecast) return <Loading what="Simulating every page for this visitor" />;
  const page = pages.find((p) => p.captureId === forecast.slowest?.captureId);
  const { stairs, paying } = forecast.staircase;
  const groups = stairs.slice(0, paying).map((s) => s.group.id);
  if (!page || groups.length === 0)
    return <p className="soft">No fix is worthwhile for this visitor: there is nothing to compare.</p>;
  const start = () => {
    setError(undefined);
    send(proofsPath(siteId), 'POST', {
      sweep: sweepId,
      captures: [page.captureId],
      groups,
      visitor: visitor.id,
      visitorName: visitor.name,
    })
      .then(() => setStarted(true))
      .catch((e: unknown) => setError(shownError(e)));
  };
  return (
    <>
      <p>
        The owner’s report shows the page of the latest proof coming up, moment by moment, as it is and with its fixes.
        A real browser loads the slowest page, <b>{page.title || page.page}</b>, without and with{' '}
        {count(groups.length, 'worthwhile fix', 'worthwhile fixes')}, for {visitor.name.toLowerCase()}.
      </p>
      {error && <ErrorBox error={error} />}
      {started ? (
        <p role="status">
          It is being filmed: the strip is in the report once the job has ended.{' '}
          <To className="link" to={`${base}/proofs`}>
            Proofs
          </To>
        </p>
      ) : (
        <p className="tools">
          <button className="button solid" onClick={start}>
            Film it
          </button>
          <span className="soft">One to two minutes; leave the machine alone meanwhile.</span>
        </p>
      )}
    </>
  );
}
