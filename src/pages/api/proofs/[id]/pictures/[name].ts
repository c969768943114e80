import fs from 'node:fs/promises';
import { store } from '../../../../../engine/services/openedStore';
import { pictureFile } from '../../../../../engine/store/proofs';
import { idOf, notFound, route } from '../../../_answer';

/** A picture of a proof: a first screen (PNG) or a frame of its film (JPEG). */
export const GET = route(async (context) => {
  const name = String(context.params.name);
  const file = await pictureFile(await store(), idOf(context), name);
  const picture = file && (await fs.readFile(file).catch(() => undefined));
  if (!picture) return notFound('There is no such picture.', context.url.pathname);
  return new Response(new Uint8Array(picture), {
    headers: {
      'content-type': name.endsWith('.png') ? 'image/png' : 'image/jpeg',
      'cache-control': 'private, max-age=31536000, immutable',
      'x-content-type-options': 'nosniff',
    },
  });
});
