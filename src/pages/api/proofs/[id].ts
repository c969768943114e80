import { store } from '../../../engine/services/openedStore';
import { findProof, proofPictures, removeProof } from '../../../engine/store/proofs';
import { idOf, json, notFound, route } from '../_answer';

/** One proof with the names of its pictures. */
export const GET = route(async (context) => {
  const db = await store();
  const proof = await findProof(db, idOf(context));
  if (!proof) return notFound('There is no such proof.', context.url.pathname);
  return json({ ...proof, pictures: await proofPictures(db, proof.id) });
});

/** Deletes a proof. */
export const DELETE = route(async (context) => {
  const gone = await removeProof(await store(), idOf(context));
  return gone ? new Response(null, { status: 204 }) : notFound('There is no such proof.', context.url.pathname);
});
