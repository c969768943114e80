import type { Store } from './store';

/** A recording that a job has made or is to make. */
export interface RecordingRow {
  readonly id: number;
  readonly url: string;
  readonly device: 'phone' | 'desktop';
  readonly why: string;
  readonly state: 'waiting' | 'done' | 'failed';
  readonly captureId: number | null;
  readonly error: string | null;
}

/** Adds what is to be recorded; what the job has already stays as it is. */
export async function planRecordings(
  store: Store,
  jobId: number,
  wanted: readonly { url: string; device: 'phone' | 'desktop'; why: string }[],
): Promise<void> {
  if (wanted.length === 0) return;
  await store
    .insertInto('recordings')
    .values(wanted.map((w) => ({ job_id: jobId, ...w, state: 'waiting' as const })))
    .onConflict((c) => c.doNothing())
    .execute();
}

export function listRecordings(store: Store, jobId: number): Promise<RecordingRow[]> {
  return store
    .selectFrom('recordings')
    .select(['id', 'url', 'device', 'why', 'state', 'capture_id as captureId', 'error'])
    .where('job_id', '=', jobId)
    .orderBy('id')
    .execute();
}

export async function recordingDone(store: Store, id: number, captureId: number): Promise<void> {
  await store
    .updateTable('recordings')
    .set({ state: 'done', capture_id: captureId, error: null })
    .where('id', '=', id)
    .execute();
}

export async function recordingFailed(store: Store, id: number, error: string): Promise<void> {
  await store.updateTable('recordings').set({ state: 'failed', error }).where('id', '=', id).execute();
}

/** Failed recordings wait again. */
export async function retryRecordings(store: Store, jobId: number): Promise<number> {
  const result = await store
    .updateTable('recordings')
    .set({ state: 'waiting', error: null })
    .where('job_id', '=', jobId)
    .where('state', '=', 'failed')
    .executeTakeFirst();
  return Number(result.numUpdatedRows);
}
