import { store } from '../../../engine/services/openedStore';
import { listJobs } from '../../../engine/store/jobs';
import { json, route } from '../_answer';

/** The latest jobs, with their progress and place in the queue. */
export const GET = route(async () => json({ jobs: await listJobs(await store()) }));
