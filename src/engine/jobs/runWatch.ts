import { findJob, type JobRow } from '../store/jobs';
import type { Store } from '../store/store';
import { lookAtWatch } from '../watch/scheduler';
import { runJob } from './runJob';

/**
 * Looks at the watch once and runs in this process what it starts, one job after the other. A server that works on the
 * same folder may take one first: then it is waited for no longer.
 */
export async function runWatch(store: Store, now: Date, say: (line: string) => void): Promise<JobRow[]> {
  const started = await lookAtWatch(store, now);
  const ended: JobRow[] = [];
  for (const job of started) {
    say(job.title);
    let last = '';
    const mine = await runJob(store, job, `${process.pid}:watch`, {
      onProgress: (_, phase) => {
        if (phase !== last) say(`  ${phase}`);
        last = phase;
      },
    });
    const row = await findJob(store, job.id);
    if (row) ended.push(row);
    say(mine ? `  ${row?.state ?? 'gone'}` : '  the server does it');
  }
  // What these jobs have brought is told at once.
  if (started.length > 0) await lookAtWatch(store, new Date(Math.max(Date.now(), now.getTime())));
  return ended;
}
