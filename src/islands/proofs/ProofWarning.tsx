import { proofOf, warningOf, type ProofSummary } from '../../core/proof/summary';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { To } from '../ui/To';
import { proofsPath, type ProofsAnswer } from './proofsPath';

/** A proof in a few words. */
export function says(p: ProofSummary): string {
  const warning = warningOf(p);
  const verdict = { held: 'Held', more: 'Better than promised', less: 'Not held' }[p.verdict];
  return warning && p.verdict !== 'less' ? `${verdict}, but ${warning}` : verdict;
}

/** What the proof of one fix has against it; nothing where it was not proved or held. */
export function ProofWarning({ group }: { group: string }) {
  const { siteId, base, visitor } = useBench();
  const found = useResource<ProofsAnswer>(proofsPath(siteId));
  const own = found.value && proofOf(found.value.proofs, [group], visitor.id);
  const warning = own && warningOf(own);
  if (!warning) return null;
  return (
    <>
      {' '}
      ·{' '}
      <To className="cost" to={`${base}/proofs/${own.id}`}>
        proved: {warning}
      </To>
    </>
  );
}
