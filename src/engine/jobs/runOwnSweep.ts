import { InputError } from '../../core/capture/errors';
import type { SweepSettings } from '../../core/site/settings';
import { Control } from '../crawl/control';
import { startSweep } from '../services/startJobs';
import { findJob, openJobs, releaseJob, requeueJob, runningJobs, type JobRow } from '../store/jobs';
import { saveSiteSettings, siteOfPage, siteSettings } from '../store/sites';
import type { Store } from '../store/store';
import { isGone } from './gone';
import { runJob } from './runJob';

/** A sweep that the calling process runs itself. */
export interface OwnSweep {
  readonly home: string;
  /** Go on with the site's sweep that was paused or cut off, instead of starting one. */
  readonly resume: boolean;
  readonly settings: (stored: SweepSettings) => Promise<SweepSettings>;
  readonly onProgress: (line: string) => void;
}

/**
 * Runs a sweep in this process to its end; SIGINT pauses it.
 * @throws InputError when there is nothing to go on with, or another process has it
 */
export async function runOwnSweep(
  store: Store,
  task: OwnSweep,
): Promise<{ readonly job: JobRow; readonly sweepId: number | null }> {
  const site = await siteOfPage(store, task.home);
  const id = task.resume ? await oldJob(store, site.id, task.home) : await newJob();
  const control = new Control();
  const stop = () => control.stop('pause');
  process.once('SIGINT', stop);
  try {
    const owner = `${process.pid}:cli`;
    const began = await runJob(store, { id, kind: 'sweep' }, owner, {
      control,
      onProgress: (p, phase) =>
        task.onProgress(
          `${phase}: ${p.done.toLocaleString('en-GB')} of ${p.total.toLocaleString('en-GB')}${p.perSecond ? `, ${p.perSecond.toFixed(1)} a second` : ''}${p.failed > 0 ? `, ${p.failed} failed` : ''}${p.waiting ? `, ${p.waiting}` : ''}`,
        ),
    });
    if (!began)
      throw new InputError('Another process has this sweep.', `job ${id}`, 'Watch it in the web application.');
  } finally {
    process.removeListener('SIGINT', stop);
  }
  const job = (await findJob(store, id)) as JobRow;
  return { job, sweepId: job.sweepId };

  async function newJob(): Promise<number> {
    const settings = await task.settings(await siteSettings(store, site));
    const job = await startSweep(store, site, settings);
    await saveSiteSettings(store, site.id, settings);
    return job.id;
  }
}

/** The site's sweep that can be gone on with, put into the queue. */
async function oldJob(store: Store, siteId: number, home: string): Promise<number> {
  const job = (await openJobs(store, siteId)).find((j) => j.kind === 'sweep');
  if (!job)
    throw new InputError('No interrupted sweep of this site can be resumed.', home, 'Start one without --resume.');
  const running = (await runningJobs(store)).find((r) => r.id === job.id);
  if (running && isGone(running.owner, running.beatAt)) await releaseJob(store, job.id);
  else if (running)
    throw new InputError('The sweep is running in another process.', `job ${job.id}`, 'Pause it there first.');
  await requeueJob(store, job.id, ['paused']);
  return job.id;
}
