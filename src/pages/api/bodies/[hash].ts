import { number, object } from 'yup';
import { scaledTo } from '../../../engine/imaging/scaled';
import { store } from '../../../engine/services/openedStore';
import { getBody } from '../../../engine/store/bodies';
import { notFound, query, route } from '../_answer';

/** Raster formats by their first bytes. Anything else goes out as plain bytes, so that nothing captured can run. */
function rasterType(bytes: Uint8Array): string {
  const at = (i: number) => bytes[i] ?? 0;
  const text = (from: number, to: number) => String.fromCharCode(...bytes.subarray(from, to));
  if (at(0) === 0xff && at(1) === 0xd8) return 'image/jpeg';
  if (text(1, 4) === 'PNG') return 'image/png';
  if (text(0, 3) === 'GIF') return 'image/gif';
  if (text(8, 12) === 'WEBP') return 'image/webp';
  if (text(4, 12) === 'ftypavif') return 'image/avif';
  return 'application/octet-stream';
}

const schema = object({ width: number().integer().min(16).max(4000) });

/** A stored body, inert: pictures as pictures, `width` px wide at most if stated, everything else as a download. */
export const GET = route(async (context) => {
  const { width } = query(context, schema);
  const hash = context.params.hash ?? '';
  const bytes = /^[0-9a-f]{64}$/.test(hash) ? await getBody(await store(), hash) : undefined;
  if (!bytes) return notFound('There is no such body.', context.url.pathname);
  const type = rasterType(bytes);
  const small = width !== undefined && type.startsWith('image/') ? await scaledTo(bytes, width) : undefined;
  return new Response((small ?? bytes) as never, {
    headers: {
      'content-type': small ? 'image/webp' : type,
      'x-content-type-options': 'nosniff',
      'content-security-policy': "sandbox; default-src 'none'",
      'cache-control': 'private, max-age=31536000, immutable',
      ...(type.startsWith('image/') ? {} : { 'content-disposition': 'attachment' }),
    },
  });
});
