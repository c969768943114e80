import { handIn } from '../../../../engine/fleet/inbox';
import { workOf } from '../../../../engine/fleet/recordWork';
import { recordingToMake } from '../../../../engine/store/fleet/sentRecordings';
import { recordingFailed } from '../../../../engine/store/recordings';
import { json } from '../../_answer';
import { workRoutes } from '../_recorder';

/** Recordings: what is to be recorded, with all that it takes; the body of PUT is a HAR. Of two for a page one is stored. */
export const { GET, PUT, POST } = workRoutes({
  name: 'recording',
  tooLarge: 'The page is too large to record.',
  async give(db, id) {
    const wanted = await recordingToMake(db, id);
    return wanted && json(workOf(wanted.url, wanted.recording.device, wanted.settings));
  },
  isWanted: async (db, id) => (await recordingToMake(db, id)) !== undefined,
  keep: handIn,
  fail: recordingFailed,
});
