import fs from 'node:fs/promises';
import { object, string } from 'yup';
import { handIn } from '../../../../engine/fleet/inbox';
import { workOf } from '../../../../engine/fleet/recordWork';
import { MAX_FILE_BYTES } from '../../../../engine/services/importHar';
import { store } from '../../../../engine/services/openedStore';
import { countForRecorder } from '../../../../engine/store/fleet/recorders';
import { recordingToMake } from '../../../../engine/store/fleet/sentRecordings';
import { recordingFailed } from '../../../../engine/store/recordings';
import { body, idOf, json, route, type ApiError } from '../../_answer';
import { takeUpload } from '../../_upload';
import { recorderOf } from '../_recorder';

const gone = (where: string) =>
  json(
    {
      error: { what: 'Nobody waits for this recording any more.', where, next: 'Take the next one.' },
    } satisfies ApiError,
    410,
  );

/** What is to be recorded, with all that it takes. 410 for what nobody waits for any more. */
export const GET = route(async (context) => {
  const wanted = await recordingToMake(await store(), idOf(context));
  return wanted ? json(workOf(wanted.url, wanted.recording.device, wanted.settings)) : gone(context.url.pathname);
});

/** Takes a recording in: the body is a HAR. Of two for the same page one is stored. */
export const PUT = route(async (context) => {
  const { tokenId, name } = recorderOf(context);
  const db = await store();
  const id = idOf(context);
  if (!(await recordingToMake(db, id))) return gone(context.url.pathname);
  const file = await takeUpload(context, `recording ${id}`, {
    bytes: MAX_FILE_BYTES,
    words: '512 MB',
    next: 'The page is too large to record.',
  });
  // While it came in another recorder may have been first, or the job have been cancelled.
  if (!(await recordingToMake(db, id))) {
    await fs.rm(file, { force: true });
    return gone(context.url.pathname);
  }
  await handIn(db, id, file);
  await countForRecorder(db, tokenId, name, 'done');
  return new Response(null, { status: 204 });
});

/** Notes that a page cannot be recorded, and why. */
export const POST = route(async (context) => {
  const { tokenId, name } = recorderOf(context);
  const { fault } = await body(context, object({ fault: string().max(2000).required('Say what went wrong.') }));
  const db = await store();
  const id = idOf(context);
  if (!(await recordingToMake(db, id))) return gone(context.url.pathname);
  await recordingFailed(db, id, fault);
  await countForRecorder(db, tokenId, name, 'failed');
  return new Response(null, { status: 204 });
});
