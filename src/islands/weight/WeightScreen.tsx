import { ConcernFindings } from '../concern/ConcernFindings';
import { ConcernHead } from '../concern/ConcernHead';
import { island } from '../frame/island';
import { WeightAreas } from './WeightAreas';

/** Weight: bytes delivered against bytes needed, as areas; and findings by cause. */
function WeightScreen() {
  return (
    <>
      <ConcernHead concern="weight" />
      <WeightAreas />
      <h2>Findings by cause</h2>
      <ConcernFindings concern="weight" />
    </>
  );
}

export default island(WeightScreen, 'recordings');
