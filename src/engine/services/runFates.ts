import type { SweepSettings } from '../../core/site/settings';
import type { Wanted } from '../crawl/control';
import { findJob, jobInput } from '../store/jobs';
import { knownProbes } from '../store/knownProbes';
import { findList, listRows, saveFates } from '../store/lists';
import { folderOfStore } from '../store/location';
import { ownPorts } from '../store/serverLock';
import type { Store } from '../store/store';
import { askFates } from './askFates';
import type { JobContext } from './runSweep';

/** What a job of kind `fates` is given; the sweep whose facts are used stands in the job. */
export interface FatesInput {
  readonly siteId: number;
  readonly listId: number;
  readonly settings: SweepSettings;
}

/** Asks for the addresses of a list; what the sweep knows already is not asked for again. */
export async function runFates(store: Store, jobId: number, context: JobContext): Promise<Wanted | undefined> {
  const input = await jobInput<FatesInput>(store, jobId);
  const job = await findJob(store, jobId);
  if (!input || !job) throw new Error(`job ${jobId} is gone`);
  const list = await findList(store, input.siteId, input.listId);
  // Deleted while it waited: nothing is left to do.
  if (!list) return undefined;
  const { probes, living } = job.sweepId
    ? await knownProbes(store, job.sweepId)
    : { probes: undefined, living: undefined };
  try {
    const report = await askFates(
      { ...list, rows: await listRows(store, list.id) },
      {
        settings: input.settings,
        ownPorts: ownPorts(await folderOfStore(store)),
        signal: context.control.signal,
        onProgress: (done, total, now) =>
          context.onProgress({ done, total, failed: 0, now: [now], recent: [], counts: {} }, 'checking addresses'),
      },
      probes,
      living,
    );
    await saveFates(store, list.id, report);
  } catch (error) {
    if (!context.control.wanted) throw error;
  }
  return context.control.wanted;
}
