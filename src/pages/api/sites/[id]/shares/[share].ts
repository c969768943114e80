import { store } from '../../../../../engine/services/openedStore';
import { revokeShare } from '../../../../../engine/store/shares';
import { idOf, notFound, route } from '../../../_answer';

/** Takes a link back: it opens no more. */
export const DELETE = route(async (context) => {
  const gone = await revokeShare(await store(), idOf(context), idOf(context, 'share'));
  return gone ? new Response(null, { status: 204 }) : notFound('There is no such link.', context.url.pathname);
});
