import { ConcernFindings } from '../concern/ConcernFindings';
import { ConcernHead } from '../concern/ConcernHead';
import { island } from '../frame/island';
import { MixedTable } from './MixedTable';

/** Mixed content: pages by insecure host; and findings by cause. */
function MixedScreen() {
  return (
    <>
      <ConcernHead concern="mixed" />
      <MixedTable />
      <h2>Findings by cause</h2>
      <ConcernFindings concern="mixed" />
    </>
  );
}

export default island(MixedScreen, 'recordings');
