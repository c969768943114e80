import { store } from '../../../../../engine/services/openedStore';
import { removeFieldFile } from '../../../../../engine/store/fieldFiles';
import { idOf, notFound, route } from '../../../_answer';

/** Takes a file of field data away. */
export const DELETE = route(async (context) => {
  const gone = await removeFieldFile(await store(), idOf(context), idOf(context, 'file'));
  return gone ? new Response(null, { status: 204 }) : notFound('There is no such file.', context.url.pathname);
});
