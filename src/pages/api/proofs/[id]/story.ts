import { store } from '../../../../engine/services/openedStore';
import { proofStory } from '../../../../engine/services/proofStory';
import { findProof } from '../../../../engine/store/proofs';
import { idOf, json, notFound, route } from '../../_answer';

/** How the load of a proved page unfolds without and with the fixes, forecast and measured. */
export const GET = route(async (context) => {
  const db = await store();
  const proof = await findProof(db, idOf(context));
  if (!proof) return notFound('There is no such proof.', context.url.pathname);
  const story = await proofStory(db, proof);
  return story
    ? json(story)
    : notFound('When the requests of this proof were made is not known any more.', context.url.pathname);
});
