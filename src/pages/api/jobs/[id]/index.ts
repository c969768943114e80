import { object, string } from 'yup';
import { InputError } from '../../../../core/capture/errors';
import { tick } from '../../../../engine/jobs/runner';
import { store } from '../../../../engine/services/openedStore';
import { retrySweep } from '../../../../engine/services/runSweep';
import { askJob, findJob, forgetJob, requeueJob } from '../../../../engine/store/jobs';
import { listRecordings } from '../../../../engine/store/recordings';
import { listNotes } from '../../../../engine/store/sweepNotes';
import { body, idOf, json, notFound, route } from '../../_answer';

/** One job with what it recorded and what it cut off. */
export const GET = route(async (context) => {
  const db = await store();
  const job = await findJob(db, idOf(context));
  if (!job) return notFound('There is no such job.', context.url.pathname);
  return json({
    ...job,
    recordings: await listRecordings(db, job.id),
    notes: job.kind === 'sweep' && job.sweepId ? await listNotes(db, job.sweepId) : [],
  });
});

const ACTIONS = ['pause', 'resume', 'cancel', 'retry'] as const;

/** Pauses, resumes or cancels a job, or tries again what failed. */
export const POST = route(async (context) => {
  const { action } = await body(context, object({ action: string().oneOf(ACTIONS).required() }));
  const db = await store();
  const job = await findJob(db, idOf(context));
  if (!job) return notFound('There is no such job.', context.url.pathname);
  const done =
    action === 'pause' || action === 'cancel'
      ? await askJob(db, job.id, action)
      : action === 'resume'
        ? await requeueJob(db, job.id, ['paused'])
        : await again(job.id);
  if (!done)
    throw new InputError(`A job that is ${job.state} cannot do this: ${action}.`, `job ${job.id}`, 'Reload to see it.');
  await tick();
  return json(await findJob(db, job.id));
});

async function again(id: number): Promise<boolean> {
  const db = await store();
  const job = await findJob(db, id);
  if (!job || !['done', 'failed', 'cancelled'].includes(job.state)) return false;
  await retrySweep(db, id);
  return requeueJob(db, id, ['done', 'failed', 'cancelled']);
}

/** Forgets a job that has ended; what it brought stays. */
export const DELETE = route(async (context) => {
  const gone = await forgetJob(await store(), idOf(context));
  return gone ? new Response(null, { status: 204 }) : notFound('No ended job has this number.', context.url.pathname);
});
