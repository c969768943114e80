import { sql } from 'kysely';
import { findJob, jobInput } from '../jobs';
import { addressToRecord, type RecordingRow } from '../recordings';
import type { SweepSettings } from '../../../core/site/settings';
import type { Store } from '../store';

/** How many recordings, probes and proofs that ask a host for something are in the queue or being made. */
export function countAtHost(store: Store, host: string) {
  const recordings = store
    .selectFrom('recordings as other')
    .innerJoin('jobs as of', 'of.id', 'other.job_id')
    .select((c) => c.fn.countAll<number>().as('n'))
    .where('other.host', '=', host)
    .where('other.sent_at', 'is not', null)
    .where('other.state', '=', 'waiting')
    .where('of.state', 'in', ['running', 'queued']);
  const tasks = store
    .selectFrom('remote_tasks as task')
    .innerJoin('jobs as of', 'of.id', 'task.job_id')
    .select((c) => c.fn.countAll<number>().as('n'))
    .where('task.host', '=', host)
    .where('task.sent_at', 'is not', null)
    .where('of.state', 'in', ['running', 'queued']);
  return sql<number>`(${recordings}) + (${tasks})`;
}

/**
 * Notes that a recording goes into the queue of recorders, unless as many as may be of its host are there already. The
 * database counts for all jobs and sites at once, so a host is never asked by more recorders than its settings allow.
 */
export async function sendRecording(
  store: Store,
  recording: { readonly id: number; readonly host: string },
  mostOfHost: number,
): Promise<boolean> {
  const result = await store
    .updateTable('recordings')
    .set({ host: recording.host, sent_at: Date.now() })
    .where('id', '=', recording.id)
    .where('state', '=', 'waiting')
    .where('sent_at', 'is', null)
    .where(countAtHost(store, recording.host), '<', mostOfHost)
    .executeTakeFirst();
  return result.numUpdatedRows > 0n;
}

/** Recordings of a job that are in the queue, those sent first first. */
export async function sentRecordings(store: Store, jobId: number): Promise<number[]> {
  const rows = await store
    .selectFrom('recordings')
    .select('id')
    .where('job_id', '=', jobId)
    .where('state', '=', 'waiting')
    .where('sent_at', 'is not', null)
    .orderBy('sent_at')
    .execute();
  return rows.map((r) => r.id);
}

/** The recordings of a job that stops are in the queue no more. */
export async function recallRecordings(store: Store, jobId: number): Promise<void> {
  await store
    .updateTable('recordings')
    .set({ sent_at: null, host: null })
    .where('job_id', '=', jobId)
    .where('sent_at', 'is not', null)
    .execute();
}

/** A recording that a recorder asks for, with the settings of its sweep; undefined when nobody waits for it any more. */
export async function recordingToMake(
  store: Store,
  id: number,
): Promise<{ readonly recording: RecordingRow; readonly url: string; readonly settings: SweepSettings } | undefined> {
  const row = await store
    .selectFrom('recordings')
    .select(['id', 'url', 'device', 'why', 'state', 'capture_id as captureId', 'error', 'job_id'])
    .where('id', '=', id)
    .where('state', '=', 'waiting')
    .where('sent_at', 'is not', null)
    .executeTakeFirst();
  if (!row) return undefined;
  const { job_id: jobId, ...recording } = row;
  const job = await findJob(store, jobId);
  const input = await jobInput<{ settings: SweepSettings }>(store, jobId);
  if (!input || !job || !['running', 'queued'].includes(job.state) || job.wanted) return undefined;
  return { recording, url: await addressToRecord(store, recording), settings: input.settings };
}
