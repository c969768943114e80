import { PageError } from '../../core/capture/errors';
import type { SweepSettings } from '../../core/site/settings';
import type { Control, Wanted } from '../crawl/control';
import { crawl } from '../crawl/crawl';
import { countPages, retryFailed } from '../store/crawlPages';
import { findJob, jobInput, setJobSweep, type JobProgress } from '../store/jobs';
import { listRecordings, planRecordings, retryRecordings } from '../store/recordings';
import type { Store } from '../store/store';
import { addSweep, endSweep } from '../store/sweeps';
import { chooseCaptures } from './chooseCaptures';
import { finishSweep } from './finishSweep';
import { probeSite } from './probeSite';
import { recordPlanned } from './recordPlanned';

/** What a job of kind `sweep` is given. */
export interface SweepInput {
  readonly siteId: number;
  readonly settings: SweepSettings;
}

/** What long work is given besides its own. */
export interface JobContext {
  readonly control: Control;
  readonly onProgress: (progress: JobProgress, phase: string) => void;
}

/**
 * Runs a sweep from where it stands: visits pages, works out what only the whole can tell, records the pages
 * that matter. A cancelled sweep keeps what was fetched, and is finished with that.
 * @throws PageError when not even the first page can be had, InputError for settings that cannot be followed
 */
export async function runSweep(store: Store, jobId: number, context: JobContext): Promise<Wanted | undefined> {
  const { control, onProgress } = context;
  const input = await jobInput<SweepInput>(store, jobId);
  const job = await findJob(store, jobId);
  if (!input || !job) throw new Error(`job ${jobId} is gone`);
  const sweepId = job.sweepId ?? (await beginSweep(store, jobId, input));
  const wanted = await crawl(store, sweepId, input.settings, { control, onProgress });
  if (wanted === 'pause') return 'pause';
  const counts = await countPages(store, sweepId);
  const { known, redirects, missing, mentions, skipped, bytes } = counts;
  const found = { known, redirects, missing, mentions, skipped, bytes };
  const visited = counts.done + counts.failed;
  const progress: JobProgress = {
    done: visited,
    total: visited,
    failed: counts.failed,
    now: [],
    recent: [],
    counts: found,
  };
  let latest = progress;
  onProgress(progress, 'working out links and templates');
  await finishSweep(store, sweepId);
  if (counts.done === 0 && wanted === undefined) {
    throw new PageError(
      `No page could be fetched. ${counts.why ?? ''}`.trim(),
      input.settings.home,
      'Open the address in a browser on this machine; check scope, robots.txt and name and password.',
    );
  }
  if (!control.wanted && input.settings.captures.maxPages > 0) {
    await planCaptures(store, jobId, sweepId, input.settings);
    const task = { jobId, siteId: input.siteId, sweepId, settings: input.settings };
    await recordPlanned(store, task, control, (p, phase) => {
      latest = { ...p, failed: p.failed + counts.failed, counts: { ...found, ...p.counts } };
      onProgress(latest, phase);
    });
  }
  if (!control.wanted && input.settings.entrances?.withSweep) {
    // What was recorded and what failed stays in sight.
    await probeSite(
      store,
      jobId,
      { ...input, sweepId },
      { control, onProgress: (p, phase) => onProgress({ ...latest, now: p.now, waiting: p.waiting }, phase) },
    );
  }
  // A sweep that was cancelled never ends: the one before stays the site's current one.
  if (!control.wanted) await endSweep(store, sweepId);
  return control.wanted;
}

/** Puts back what failed, so that the job's next run tries it again. */
export async function retrySweep(store: Store, jobId: number): Promise<void> {
  const job = await findJob(store, jobId);
  if (job?.sweepId) await retryFailed(store, job.sweepId);
  await retryRecordings(store, jobId);
}

function beginSweep(store: Store, jobId: number, input: SweepInput): Promise<number> {
  return store.transaction().execute(async (tx) => {
    const id = await addSweep(tx, input.siteId, input.settings);
    await setJobSweep(tx, jobId, input.siteId, id);
    return id;
  });
}

/** Decided once: a job that goes on keeps to what it began with. */
async function planCaptures(store: Store, jobId: number, sweepId: number, settings: SweepSettings): Promise<void> {
  if ((await listRecordings(store, jobId)).length > 0) return;
  const pages = await chooseCaptures(store, sweepId, settings.captures);
  await planRecordings(
    store,
    jobId,
    pages.flatMap((p) => settings.captures.devices.map((device) => ({ ...p, device }))),
    sweepId,
  );
}
