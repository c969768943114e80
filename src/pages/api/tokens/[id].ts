import { store } from '../../../engine/services/openedStore';
import { removeToken } from '../../../engine/store/fleet/tokens';
import { idOf, notFound, route } from '../_answer';

/** Deletes a token: what comes with it is refused from then on. */
export const DELETE = route(async (context) => {
  const { who } = context.locals;
  const all = who?.roles.everywhere === 'administrator';
  const gone = await removeToken(await store(), idOf(context), all ? undefined : (who?.account?.id ?? 0));
  return gone ? new Response(null, { status: 204 }) : notFound('There is no such token.', context.url.pathname);
});
