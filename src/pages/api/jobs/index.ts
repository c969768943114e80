import { store } from '../../../engine/services/openedStore';
import { listJobs } from '../../../engine/store/jobs';
import { json, route } from '../_answer';
import { jobsSeenBy } from './_seen';

/** The latest jobs, with their progress and place in the queue. */
export const GET = route(async (context) =>
  json({ jobs: (await listJobs(await store())).filter(jobsSeenBy(context)) }),
);
