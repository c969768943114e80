import { useState } from 'react';
import type { ProofStory } from '../../core/proof/measuredLoad';
import { StoryChart } from '../charts/story/StoryChart';
import { useResource } from '../state/api';
import { ErrorBox, Loading } from '../ui/parts';
import { useWidth } from '../ui/useWidth';
import { proofStoryPath } from './proofsPath';

const WAYS = [
  { id: 'measured', name: 'Measured' },
  { id: 'forecast', name: 'Forecast' },
] as const;

/** The load of a proved page as a typical visit measured it, or as it was forecast. */
export default function ProofStoryView({ proofId }: { proofId: number }) {
  const { ref, width } = useWidth(300);
  const [way, setWay] = useState<(typeof WAYS)[number]['id']>('measured');
  const found = useResource<ProofStory>(proofStoryPath(proofId));
  if (found.error) return <ErrorBox error={found.error} retry={found.reload} />;
  if (!found.value) return <Loading what="Reading the requests" />;
  const { before, after } = found.value;
  return (
    <div ref={ref}>
      <p className="tools" role="group" aria-label="Which times">
        {WAYS.map((w) => (
          <button
            key={w.id}
            type="button"
            className={way === w.id ? 'chip on' : 'chip'}
            aria-pressed={way === w.id}
            onClick={() => setWay(w.id)}
          >
            {w.name}
          </button>
        ))}
        <span className="soft">
          {way === 'measured'
            ? 'Of each side the visit whose hero paint lies in the middle. When scripts ran was not measured.'
            : 'The same load as simulated for this visitor.'}
        </span>
      </p>
      <StoryChart
        story={{ now: before[way], after: after[way], afterGraph: after.graph }}
        graph={before.graph}
        width={width}
        benchEmpty={false}
        names={['As it is', 'With the fixes']}
      />
    </div>
  );
}
