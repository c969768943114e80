import { bytes, count, ms } from '../../ui/format';
import type { JourneyStep, SpanLoad } from './journey';

/** The step that is travelled to, with its reason. */
export function StepLine(props: {
  step: JourneyStep;
  place: string;
  onMove: (by: number) => void;
  onClose: () => void;
}) {
  const { step, place, onMove, onClose } = props;
  return (
    <span>
      <button className="put" onClick={() => onMove(-1)} aria-label="Step before">
        ←
      </button>{' '}
      <button className="put" onClick={() => onMove(1)} aria-label="Next step">
        →
      </button>{' '}
      <span className="soft">{place}</span> <b>{step.name}</b>{' '}
      <span className="soft">
        {ms(step.fromMs)} to {ms(step.toMs)}:
      </span>{' '}
      {step.text}{' '}
      <button className="link soft" onClick={onClose}>
        Clear selection
      </button>
    </span>
  );
}

/** What ran in a span of the load. */
export function SpanList(props: {
  span: readonly [number, number];
  now: readonly SpanLoad[];
  onZoom: () => void;
  onClose: () => void;
}) {
  const { span, now, onZoom, onClose } = props;
  return (
    <section className="span-list" aria-label="Loads in the span">
      <p className="tools">
        <b>
          {ms(span[0])} to {ms(span[1])}: {count(now.length, 'load')}, {bytes(now.reduce((s, l) => s + l.bytes, 0))}
        </b>
        <button className="put" onClick={onZoom}>
          Zoom to it
        </button>
        <button className="link soft" onClick={onClose}>
          Close
        </button>
      </p>
      <div className="scroll">
        <table className="rows">
          <thead>
            <tr>
              <th>Load</th>
              <th className="right">Found</th>
              <th className="right">Here</th>
              <th className="right">Size</th>
              <th>Discovery</th>
            </tr>
          </thead>
          <tbody>
            {now.map((l) => (
              <tr key={l.id}>
                <td title={l.url}>{l.name}</td>
                <td className="right">{ms(l.fromMs)}</td>
                <td className="right">{ms(l.toMs)}</td>
                <td className="right">{bytes(l.bytes)}</td>
                <td className="soft">{l.why}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
