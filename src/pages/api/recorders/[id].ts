import { store } from '../../../engine/services/openedStore';
import { removeRecorder } from '../../../engine/store/fleet/recorders';
import { idOf, notFound, route } from '../_answer';

/** Takes a recorder off the list; one that still runs comes back with its next sign of life. */
export const DELETE = route(async (context) => {
  const gone = await removeRecorder(await store(), idOf(context));
  return gone ? new Response(null, { status: 204 }) : notFound('There is no such recorder.', context.url.pathname);
});
