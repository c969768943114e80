import { InputError } from '../../core/capture/errors';
import { currentSweep } from '../../core/site/currentSweep';
import { monthBefore, wellNotice } from '../../core/watch/notices';
import { isDue } from '../../core/watch/schedule';
import { log } from '../log';
import { startChanges, startProbe, startRecordings, startSweep } from '../services/startJobs';
import { listCaptures } from '../store/captures';
import { countRuns, findJob, type JobRow } from '../store/jobs';
import { findSite, listSites, siteSettings, type SiteRow } from '../store/sites';
import type { Store } from '../store/store';
import { listSweeps } from '../store/sweeps';
import { countNotices, notifySettings } from '../store/watch/notices';
import { claimStart, listSchedules, noteStart, type ScheduleRow } from '../store/watch/schedules';
import { tell } from './afterRun';
import { deliverWaiting } from './deliver';

const LOOK_MS = 20_000;
let timer: NodeJS.Timeout | undefined;

/** Looks at schedules and waiting messages for as long as this process lives. */
export function startWatch(store: Store, onStart: () => void): void {
  timer ??= setInterval(() => {
    void lookAtWatch(store, new Date())
      .then((started) => started.length > 0 && onStart())
      .catch((err: unknown) => log.warn({ err }, 'the watch could not be looked at'));
  }, LOOK_MS).unref();
}

/** Starts what is due, tells what failed, says once a month that all is well, and sends what waits. */
export async function lookAtWatch(store: Store, now: Date): Promise<JobRow[]> {
  const started = await startDue(store, now);
  await tellFailures(store, now);
  await tellWell(store, now);
  await deliverWaiting(store, now);
  return started;
}

/** Puts into the queue what schedules have due, each once however much was missed. */
export async function startDue(store: Store, now: Date): Promise<JobRow[]> {
  const started: JobRow[] = [];
  for (const schedule of await listSchedules(store)) {
    // One that was changed after its last start counts from the change.
    const last = [schedule.createdAt, schedule.lastStart ?? ''].sort().at(-1) as string;
    if (!isDue(schedule, new Date(last), now) || !(await claimStart(store, schedule, now))) continue;
    const site = await findSite(store, schedule.siteId);
    if (!site) continue;
    try {
      const job = await startScheduled(store, site, schedule);
      await noteStart(store, schedule.id, { job: job.id });
      started.push(job);
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      const { what, where, next } = error;
      await noteStart(store, schedule.id, { error: { what, where, next } });
    }
  }
  return started;
}

/** Puts into the queue what a schedule does. @throws InputError when it cannot be done */
export async function startScheduled(store: Store, site: SiteRow, { what }: ScheduleRow): Promise<JobRow> {
  const settings = await siteSettings(store, site);
  if (what === 'sweep') return startSweep(store, site, settings);
  if (what === 'changes') return startChanges(store, site, settings);
  const sweep = currentSweep(await listSweeps(store, site.id));
  if (what === 'probe') return startProbe(store, site, sweep?.id ?? null, settings);
  const captures = sweep ? await listCaptures(store, sweep.id) : [];
  return startRecordings(store, site, sweep?.id ?? 0, [...new Set(captures.map((c) => c.page))], settings);
}

async function tellFailures(store: Store, now: Date): Promise<void> {
  for (const { siteId, lastJob } of await listSchedules(store)) {
    const job = lastJob === null ? undefined : await findJob(store, lastJob);
    if (job?.state !== 'failed') continue;
    const { what, where, next } = job.error ?? { what: 'It failed.', where: '', next: '' };
    await tell(
      store,
      siteId,
      [
        {
          kind: 'failure',
          key: `failure ${job.id}`,
          title: `Failed: ${job.title}`,
          lines: [what, where, next].filter(Boolean),
          path: `/sites/${siteId}/jobs/${job.id}`,
        },
      ],
      now,
    );
  }
}

async function tellWell(store: Store, now: Date): Promise<void> {
  const month = monthBefore(now.toISOString().slice(0, 10));
  for (const site of await listSites(store)) {
    if (!(await notifySettings(store, site.id)).monthly) continue;
    const runs = await countRuns(store, site.id, month);
    if (runs > 0 && (await countNotices(store, site.id, month)) === 0)
      await tell(store, site.id, [wellNotice(month, runs, site.id)], now);
  }
}
