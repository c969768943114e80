import { PageError } from '../../core/capture/errors';
import type { SweepSettings } from '../../core/site/settings';
import type { Wanted } from '../crawl/control';
import { findJob, jobInput } from '../store/jobs';
import { listRecordings, planRecordings } from '../store/recordings';
import type { Store } from '../store/store';
import { recordPlanned } from './recordPlanned';
import type { JobContext } from './runSweep';

/** What a job of kind `record` is given; its sweep stands in the job itself. */
export interface RecordInput {
  readonly siteId: number;
  readonly urls: readonly string[];
  readonly settings: SweepSettings;
}

/**
 * Records the pages that an auditor asked for into a sweep.
 * @throws PageError when none of them could be recorded
 */
export async function runRecordings(store: Store, jobId: number, context: JobContext): Promise<Wanted | undefined> {
  const input = await jobInput<RecordInput>(store, jobId);
  const job = await findJob(store, jobId);
  if (!input || !job?.sweepId) throw new Error(`job ${jobId} is gone`);
  await planRecordings(
    store,
    jobId,
    input.urls.flatMap((url) => input.settings.captures.devices.map((device) => ({ url, device, why: 'requested' }))),
    job.sweepId,
  );
  await recordPlanned(
    store,
    { jobId, siteId: input.siteId, sweepId: job.sweepId, settings: input.settings },
    context.control,
    context.onProgress,
  );
  const made = await listRecordings(store, jobId);
  if (!context.control.wanted && made.every((r) => r.state === 'failed'))
    throw new PageError(made[0]?.error ?? 'Nothing was recorded.', made[0]?.url ?? '', 'Try again once it answers.');
  return context.control.wanted;
}
