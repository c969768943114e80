import { ConcernFindings } from '../concern/ConcernFindings';
import { ConcernHead } from '../concern/ConcernHead';
import { island } from '../frame/island';
import { BlockingChains } from './BlockingChains';

/** Blocking: the chain to the first paint, drawn in time; and findings by cause. */
function BlockingScreen() {
  return (
    <>
      <ConcernHead concern="blocking" />
      <BlockingChains />
      <h2>Findings by cause</h2>
      <ConcernFindings concern="blocking" />
    </>
  );
}

export default island(BlockingScreen, 'recordings');
