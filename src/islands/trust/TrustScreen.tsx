import type { AccuracyReport } from '../../core/plan/accuracy';
import { AccuracyChart } from '../charts/AccuracyChart';
import { count, ms } from '../ui/format';
import report from './accuracy.json';
import { HeadUnseen } from '../ui/parts';
import { LEAST_PROOFS, ownRangeText } from '../../core/proof/learn';
import { useBench } from '../state/bench';
import { To } from '../ui/To';
import { island } from '../frame/island';

const REPORT = report as unknown as AccuracyReport;
const percent = (share: number) => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`;

/** What forecasts are worth: figures of the benchmark that holds them against a real browser. */
export function TrustScreen() {
  const { rows, links, kinds, points, worst, others } = REPORT;
  const missed = rows.filter((r) => !r.ok);
  const errors = points.map((p) => Math.abs(p.forecast - p.measured) / p.base).sort((a, b) => a - b);
  const middle = errors[Math.floor(errors.length / 2)] ?? 0;
  return (
    <>
      <h1 className="serif">How far can I trust this?</h1>
      <p className="lead">
        We edited {count(REPORT.pages, 'page')} in {REPORT.variants} ways, loaded them {REPORT.runs} times in a real
        browser over real slow links, and held the forecasts against it. The median forecast of the hero’s paint is off
        by <b>{percent(middle)}</b> of what it was before the fix.
      </p>
      <p>
        {count(others.pages, 'page is', 'pages are')} not ours: documents of published packages, with other texts. There
        the median forecast of first and hero paint is off by {percent(others.median)}, one in ten by more than{' '}
        {percent(others.p90)}.
      </p>
      <p className="soft small">
        {REPORT.browser}, {REPORT.measuredOn}. Your own page is not among them: its Facts view shows how far the
        simulation is from its recording. Forecasts always show a range; promise the smaller saving of it.
      </p>
      <OwnProofs />
      <div className="trust-columns">
        <section aria-label="Judged figures">
          <h2 className="serif">Targets</h2>
          <table className="rows">
            <thead>
              <tr>
                <th>Figure</th>
                <th>Target</th>
                <th className="right">Fitted pages</th>
                <th className="right">Held back</th>
                <HeadUnseen>Met</HeadUnseen>
              </tr>
            </thead>
            <tbody>
              {rows.map((r) => (
                <tr key={r.name}>
                  <td>{r.name}</td>
                  <td className="soft">{r.target.replace(/ %/g, '\u00a0%')}</td>
                  <td className="right">{r.fitted}</td>
                  <td className="right">{r.held}</td>
                  <td>{r.ok ? <span className="gain">met</span> : <b className="cost">missed</b>}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="soft small">
            {missed.length === 0
              ? 'Every target is met, also on the pages held back.'
              : `${count(missed.length, 'target is', 'targets are')} missed on one side or the other.`}{' '}
            {count(REPORT.heldPages, 'page was', 'pages were')} held back: no constant was fitted to them.
          </p>
        </section>
        <AccuracyChart points={points} />
      </div>
      <section aria-label="By kind of fix">
        <h2 className="serif">By kind of fix</h2>
        <p className="soft small">
          Error of the forecast change of hero paint as a share of the measured base: median and worst.
        </p>
        <table className="rows">
          <thead>
            <tr>
              <th>Fix</th>
              {links.map((l) => (
                <th key={l.id} className="right">
                  {l.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {kinds.map((k) => (
              <tr key={k.kind}>
                <td>{k.title}</td>
                {links.map((l) => {
                  const cell = k.cells[l.id];
                  return (
                    <td key={l.id} className="right">
                      {cell && cell.cases > 0 ? (
                        <>
                          {percent(cell.median)}{' '}
                          <span className="soft small">
                            worst {percent(cell.worst)} of {cell.cases}
                          </span>
                        </>
                      ) : (
                        <span className="soft">not measured</span>
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <section aria-label="The worst">
        <h2 className="serif">Largest errors</h2>
        <table className="rows">
          <thead>
            <tr>
              <th>Page and fix</th>
              <th className="right">Measured</th>
              <th className="right">Forecast</th>
              <th className="right">Error</th>
              <th>Why</th>
            </tr>
          </thead>
          <tbody>
            {worst.map((w) => (
              <tr key={`${w.page} ${w.link} ${w.variant} ${w.metric}`}>
                <td>
                  {w.page}: {w.variant} <span className="soft small">{links.find((l) => l.id === w.link)?.name}</span>{' '}
                  <span className="soft small">{w.metric === 'LCP' ? 'hero paint' : 'first paint'}</span>
                </td>
                <td className="right">{ms(w.measured)}</td>
                <td className="right">{ms(w.forecast)}</td>
                <td className="right">{percent(w.error)}</td>
                <td className="small">{w.why}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </>
  );
}

/** What proofs of this site's own pages found. */
function OwnProofs() {
  const { trust, base } = useBench();
  if (!trust) return null;
  const { proofs, cases, median, inside } = trust;
  if (proofs === 0)
    return (
      <section aria-label="This site">
        <h2 className="serif">This site</h2>
        <p>
          Nothing of this site has been proved yet. <To to={`${base}/proofs`}>Prove the bench</To>: from {LEAST_PROOFS}{' '}
          proofs on, ranges follow what was measured here.
        </p>
      </section>
    );
  return (
    <section aria-label="This site">
      <h2 className="serif">This site</h2>
      <p>
        {count(proofs, 'proof')} of this site: the median forecast is off by <b>{percent(median)}</b> of what it was
        before the fix, and {inside} of {cases.length} measured changes lie inside their range.{' '}
        {ownRangeText(trust) ||
          (proofs < LEAST_PROOFS
            ? `From ${LEAST_PROOFS} proofs on, ranges follow what was measured here.`
            : 'Ranges are as wide as they should be.')}{' '}
        <To to={`${base}/proofs`}>See the proofs</To>
      </p>
      <AccuracyChart
        points={cases.map((c, i) => ({
          page: String(i),
          variant: c.figure,
          link: '',
          held: false,
          metric: c.figure === 'lcpMs' ? 'LCP' : 'FCP',
          base: c.base,
          measured: c.measured,
          forecast: c.promised,
          low: c.range[0],
          high: c.range[1],
        }))}
      />
    </section>
  );
}

export default island(TrustScreen);
