import { lazy, useState } from 'react';
import type { ProofPictures, ProofRow } from '../../engine/store/proofs';
import { breaksFirstScreen, verdictText } from '../../core/proof/words';
import { ProofScale } from '../charts/ProofScale';
import { island } from '../frame/island';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { bytes, count, dayTime, effectText, ms } from '../ui/format';
import { ErrorBox, Loading, MEANS, Term } from '../ui/parts';
import { To } from '../ui/To';
import { Later } from '../ui/Later';
import { Film } from './Film';

const ProofStoryView = lazy(() => import('./ProofStoryView'));

type ProofAnswer = ProofRow & { readonly pictures: ProofPictures };

/** Where a proof is asked for. */
export const proofPath = (id: number) => `/api/proofs/${id}`;

const TIMES = [
  { figure: 'lcpMs', name: 'Hero paint (LCP)', means: MEANS.lcp },
  { figure: 'fcpMs', name: 'First paint (FCP)', means: MEANS.fcp },
  { figure: 'loadMs', name: 'Load', means: MEANS.load },
] as const;

/** One proof: what was promised, what was measured, and how both look. */
export function ProofScreen({ proofId }: { proofId: number }) {
  const { base } = useBench();
  const found = useResource<ProofAnswer>(proofPath(proofId));
  if (found.error) return <ErrorBox error={found.error} retry={found.reload} />;
  if (!found.value) return <Loading what="Reading the proof" />;
  const { proof, pictures, title, page, visitorName, groups, captureId } = found.value;
  const at = `/api/proofs/${proofId}/pictures/`;
  return (
    <>
      <h1 className="serif">{verdictText(proof)}</h1>
      <p className="soft">
        {captureId ? <To to={`${base}/pages/${captureId}`}>{title || page}</To> : title || page} for {visitorName};{' '}
        {groups.map((g) => g.title).join('; ')}. {count(proof.runs, 'run')} of each side with {proof.browser}, over{' '}
        {proof.link === 'namespaces' ? 'a link of this system' : 'a link emulated in user space'},{' '}
        {dayTime(proof.provedAt)}.
      </p>
      <ProofScale
        rows={TIMES.map(({ figure, name }) => ({
          name,
          promised: proof.forecast.change[figure],
          range: proof.forecast.range[figure],
          measured: proof.change[figure].median,
          interval: [proof.change[figure].low, proof.change[figure].high],
          values: proof.change[figure].values,
        }))}
      />
      <div className="scroll">
        <table className="rows">
          <thead>
            <tr>
              <th>Figure</th>
              <th className="right">As it is</th>
              <th className="right">With the fixes</th>
              <th className="right">Measured</th>
              <th className="right">Promised</th>
              <th>Held</th>
            </tr>
          </thead>
          <tbody>
            {TIMES.map(({ figure, name, means }) => (
              <tr key={figure}>
                <td>
                  <Term means={means}>{name}</Term>
                </td>
                <td className="right">{ms(proof.before[figure].median)}</td>
                <td className="right">{ms(proof.after[figure].median)}</td>
                <td className="right">
                  {effectText(proof.change[figure].median, [proof.change[figure].low, proof.change[figure].high])}
                </td>
                <td className="right">{effectText(proof.forecast.change[figure], proof.forecast.range[figure])}</td>
                <td>{proof.held[figure] ? <span className="gain">held</span> : <b className="cost">not held</b>}</td>
              </tr>
            ))}
            <tr>
              <td>Bytes</td>
              <td className="right">{bytes(proof.before.bytes.median)}</td>
              <td className="right">{bytes(proof.after.bytes.median)}</td>
              <td className="right">{signedBytes(proof.change.bytes.median)}</td>
              <td className="right">{signedBytes(proof.forecast.change.bytes)}</td>
              <td />
            </tr>
            <tr>
              <td>Layout shift (CLS)</td>
              <td className="right">{proof.before.cls.median.toFixed(2)}</td>
              <td className="right">{proof.after.cls.median.toFixed(2)}</td>
              <td className="right">{proof.change.cls.median.toFixed(2)}</td>
              <td className="right soft">not promised</td>
              <td />
            </tr>
          </tbody>
        </table>
      </div>
      <Film at={at} film={pictures.film} />
      {pictures.loads && captureId !== null && <LoadStory proofId={proofId} />}
      {pictures.screens.before && pictures.screens.after && (
        <section aria-label="First screens">
          <h2 className="serif">
            {breaksFirstScreen(proof)
              ? `The first screens differ: ${percent(proof.firstScreenAlike)} alike`
              : `The first screen looks the same: ${percent(proof.firstScreenAlike)} alike`}
          </h2>
          <div className="first-screens">
            <figure>
              <img src={at + pictures.screens.before} alt="First screen as it is" loading="lazy" />
              <figcaption>As it is</figcaption>
            </figure>
            <figure>
              <img src={at + pictures.screens.after} alt="First screen with the fixes" loading="lazy" />
              <figcaption>With the fixes</figcaption>
            </figure>
          </div>
          <p className="soft small">Two loads without the fixes are {percent(proof.firstScreenItself)} alike.</p>
        </section>
      )}
      <Lines title="New errors with the fixes" lines={proof.newErrors} />
      <Lines title="Never captured: answered with 404" lines={proof.unanswered} />
      <Lines title="Otherwise than in the recording" lines={proof.differs} />
    </>
  );
}

/** How the load unfolds, on wish: the chart is a large one. */
function LoadStory({ proofId }: { proofId: number }) {
  const [open, setOpen] = useState(false);
  return (
    <section aria-label="How the load unfolds">
      <h2 className="serif">How the load unfolds</h2>
      {open ? (
        <Later fallback={<Loading what="Reading the requests" />}>
          <ProofStoryView proofId={proofId} />
        </Later>
      ) : (
        <button type="button" className="put" onClick={() => setOpen(true)}>
          Show the requests of a typical visit
        </button>
      )}
    </section>
  );
}

const percent = (share: number) => `${Math.round(100 * share)} %`;
const signedBytes = (n: number) =>
  Math.abs(n) < 500 ? 'no change' : `${bytes(Math.abs(n))} ${n < 0 ? 'less' : 'more'}`;

function Lines({ title, lines }: { title: string; lines: readonly string[] }) {
  if (lines.length === 0) return null;
  return (
    <details open={lines.length < 6}>
      <summary>
        {title} ({lines.length})
      </summary>
      <ul className="mono small proof-lines">
        {lines.map((l) => (
          <li key={l}>{l}</li>
        ))}
      </ul>
    </details>
  );
}

export default island(ProofScreen);
