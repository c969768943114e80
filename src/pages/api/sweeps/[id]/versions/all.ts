import { number, object } from 'yup';
import { InputError } from '../../../../../core/capture/errors';
import { allVersions, MOST_PICTURES, savingPictures } from '../../../../../engine/services/allVersions';
import { store } from '../../../../../engine/services/openedStore';
import { findSweep } from '../../../../../engine/store/sweeps';
import { idOf, notFound, query, route } from '../../../_answer';

const PARAMETERS = object({ most: number().integer().min(1).max(MOST_PICTURES).default(MOST_PICTURES) });

/** Every own picture of a sweep that is larger than needed, re-encoded, in one ZIP, or the `most` that save most; it is made while it is sent. */
export const GET = route(async (context) => {
  const db = await store();
  const sweep = await findSweep(db, idOf(context));
  if (!sweep) return notFound('There is no such sweep.', context.url.pathname);
  const urls = (await savingPictures(db, sweep.id)).slice(0, query(context, PARAMETERS).most);
  if (urls.length === 0)
    throw new InputError(
      'No own picture of this sweep is larger than needed.',
      `sweep ${sweep.id}`,
      'There is nothing to save.',
    );
  return new Response(allVersions(db, sweep.id, urls), {
    headers: {
      'content-type': 'application/zip',
      'content-disposition': `attachment; filename="pictures-${sweep.day}.zip"`,
      'cache-control': 'no-store',
    },
  });
});
