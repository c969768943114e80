import { store } from '../../../../engine/services/openedStore';
import { countPages } from '../../../../engine/store/crawlPages';
import { jobOfSweep } from '../../../../engine/store/jobs';
import { listNotes } from '../../../../engine/store/sweepNotes';
import { findSweep } from '../../../../engine/store/sweeps';
import { idOf, json, notFound, route } from '../../_answer';

/** A sweep with its settings (without secrets), pages by state, and what was cut off or waited out. */
export const GET = route(async (context) => {
  const db = await store();
  const sweep = await findSweep(db, idOf(context));
  if (!sweep) return notFound('There is no such sweep.', context.url.pathname);
  return json({
    ...sweep,
    pages: await countPages(db, sweep.id),
    notes: await listNotes(db, sweep.id),
    job: (await jobOfSweep(db, sweep.id))?.id,
  });
});
