import { store } from '../../../../../engine/services/openedStore';
import { removeMute } from '../../../../../engine/store/mutes';
import { idOf, notFound, route } from '../../../_answer';

/** Takes a mute back. */
export const DELETE = route(async (context) => {
  const gone = await removeMute(await store(), idOf(context), idOf(context, 'mute'));
  return gone ? new Response(null, { status: 204 }) : notFound('There is no such mute.', context.url.pathname);
});
