import { redactUrl } from '../../core/capture/redact';
import { sealerOf } from './sealed';
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

/**
 * Adds what is to be recorded; what the job has already stays as it is. Addresses are kept without secrets, and whole
 * ones encrypted until their recording is done.
 * @param sweepId whose pages the addresses are: it knows the whole ones
 */
export async function planRecordings(
  store: Store,
  jobId: number,
  wanted: readonly { url: string; device: 'phone' | 'desktop'; why: string }[],
  sweepId: number,
): Promise<void> {
  if (wanted.length === 0) return;
  const sealer = await sealerOf(store);
  const pages = await store
    .selectFrom('pages')
    .select(['url', 'sealed'])
    .where('sweep_id', '=', sweepId)
    .where('sealed', 'is not', null)
    .execute();
  const known = new Map(pages.map((p) => [p.url, p.sealed]));
  await store
    .insertInto('recordings')
    .values(
      wanted.map((w) => {
        const url = redactUrl(w.url);
        const sealed = url === w.url ? (known.get(url) ?? null) : sealer.seal(w.url);
        return { job_id: jobId, ...w, url, sealed, state: 'waiting' as const };
      }),
    )
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

/** The whole address of a recording that is still to be made. */
export async function addressToRecord(store: Store, recording: RecordingRow): Promise<string> {
  const row = await store.selectFrom('recordings').select('sealed').where('id', '=', recording.id).executeTakeFirst();
  return row?.sealed ? (await sealerOf(store)).open(row.sealed) : recording.url;
}

export async function recordingDone(store: Store, id: number, captureId: number): Promise<void> {
  await store
    .updateTable('recordings')
    .set({ state: 'done', capture_id: captureId, error: null, sealed: null, host: null, sent_at: null })
    .where('id', '=', id)
    .execute();
}

export async function recordingFailed(store: Store, id: number, error: string): Promise<void> {
  await store
    .updateTable('recordings')
    .set({ state: 'failed', error, host: null, sent_at: null })
    .where('id', '=', id)
    .execute();
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
