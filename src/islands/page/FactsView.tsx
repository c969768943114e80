import type { StoryAnswer } from '../../workers/benchMessages';
import { useBench } from '../state/bench';
import type { CaptureView } from '../state/types';
import { bytes, dayTime, ms } from '../ui/format';
import { MEANS, Term, HeadUnseen } from '../ui/parts';
import { trustText } from '../../core/handover/effectText';
import { To } from '../ui/To';
import { FieldOfPage } from '../field/FieldOfPage';

/** How the hero's time splits, how far the forecast can be trusted, and how the capture was made. */
export function FactsView({ view, story }: { view: CaptureView; story?: StoryAnswer }) {
  const { visitor, base } = useBench();
  const { trust, measured, conditions } = view;
  return (
    <div className="facts">
      {story && (
        <section>
          <h2>Where the hero's time goes, {visitor.name.toLowerCase()}</h2>
          <table className="rows">
            <thead>
              <tr>
                <HeadUnseen>Figure</HeadUnseen>
                <th className="right">Now</th>
                <th className="right">With the bench</th>
              </tr>
            </thead>
            <tbody>
              {(
                [
                  ['Server', 'serverMs', MEANS.ttfb],
                  [
                    'Until discovered',
                    'untilFoundMs',
                    'From the first byte of the page until the browser discovers the file.',
                  ],
                  ['Transfer', 'transferMs', 'From discovery until the whole file has arrived, queueing included.'],
                  ['Until painted', 'untilPaintedMs', 'From the arrival of the file until it is painted.'],
                ] as const
              ).map(([name, key, means]) => (
                <tr key={key}>
                  <td>
                    <Term means={means}>{name}</Term>
                  </td>
                  <td className="right">{ms(story.now.split[key])}</td>
                  <td className="right">{ms(story.after.split[key])}</td>
                </tr>
              ))}
              <tr className="sum">
                <td>
                  <Term means={MEANS.lcp}>Hero paint (LCP)</Term>
                </td>
                <td className="right cost">{ms(story.now.milestones.lcpMs)}</td>
                <td className="right gain">{ms(story.after.milestones.lcpMs)}</td>
              </tr>
            </tbody>
          </table>
        </section>
      )}
      <section>
        <h2>How far to trust it: the recording simulated under its own conditions</h2>
        <table className="rows">
          <thead>
            <tr>
              <HeadUnseen>Figure</HeadUnseen>
              <th className="right">Recorded</th>
              <th className="right">Simulated</th>
            </tr>
          </thead>
          <tbody>
            <Compare name="First paint" a={trust.recordedFcpMs} b={trust.reenactedFcpMs} />
            <Compare name="Hero paint (LCP)" a={trust.recordedLcpMs} b={trust.reenactedLcpMs} />
            <Compare name="Load" a={trust.recordedLoadMs} b={trust.reenactedLoadMs} />
          </tbody>
        </table>
        <p className="soft small">
          {trust.gap === undefined
            ? 'The file does not state the hero paint (LCP), so there is nothing to compare.'
            : trustText(trust)}{' '}
          <To className="link" to={`${base}/trust`}>
            How far can I trust this?
          </To>
        </p>
      </section>
      <FieldOfPage page={view.row.page} device={view.row.device} />
      <section>
        <h2>The capture</h2>
        <dl>
          <dt>Recorded</dt>
          <dd>{dayTime(view.row.recordedAt)}</dd>
          <dt>File</dt>
          <dd>{view.row.fileName}</dd>
          <dt>Asked for</dt>
          <dd className="mono">{view.requested}</dd>
          <dt>Screen</dt>
          <dd>
            {conditions.screenWidth} x {conditions.screenHeight} at {conditions.density}x
            {conditions.stated ? '' : ' (assumed)'}
          </dd>
          <dt>Link</dt>
          <dd>
            round trip {conditions.rttMs.toFixed(1)} ms,{' '}
            {conditions.downKbps >= 1000
              ? `${Math.round(conditions.downKbps / 1000)} Mbit/s`
              : `${Math.round(conditions.downKbps)} kbit/s`}
            {conditions.stated ? '' : ' (estimated from its loads)'}
          </dd>
          <dt>Loads</dt>
          <dd>
            {measured.requests}, {bytes(measured.bytes)}
          </dd>
          {measured.cls !== undefined && (
            <>
              <dt>
                <Term means="Cumulative Layout Shift (CLS): how much the page jumps while it loads; under 0.1 is good.">
                  CLS
                </Term>
              </dt>
              <dd>{measured.cls.toFixed(2)}</dd>
            </>
          )}
        </dl>
        {view.notes.length > 0 && (
          <>
            <h2>Not examined</h2>
            <ul>
              {view.notes.map((n) => (
                <li key={n}>{n}</li>
              ))}
            </ul>
          </>
        )}
      </section>
    </div>
  );
}

function Compare({ name, a, b }: { name: string; a?: number; b: number }) {
  return (
    <tr>
      <td>{name}</td>
      <td className="right">{a === undefined ? '–' : ms(a)}</td>
      <td className="right">{ms(b)}</td>
    </tr>
  );
}
