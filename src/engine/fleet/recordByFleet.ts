import { setTimeout as pause } from 'node:timers/promises';
import { hostOf } from '../../core/capture/url';
import { InputError } from '../../core/capture/errors';
import type { Control } from '../crawl/control';
import { log } from '../log';
import { importHar } from '../services/importHar';
import type { RecordTask } from '../services/recordPlanned';
import { recordingProgress } from '../services/recordingProgress';
import type { JobProgress } from '../store/jobs';
import { listRecordings, recordingDone, recordingFailed, type RecordingRow } from '../store/recordings';
import { recallRecordings, sendRecording, sentRecordings } from '../store/fleet/sentRecordings';
import { hasRecorder } from '../store/fleet/recorders';
import type { Store } from '../store/store';
import { forgetHandedIn, handedIn, readHandedIn } from './inbox';
import { queueNameOf } from './queueAddress';
import { WorkQueue } from './workQueue';

/** How often a job looks what has been handed in, in ms. */
const LOOK_MS = 150;
/** How often it makes sure that what it has sent is in the queue: the queue may have lost everything. */
const CHECK_MS = 3000;

/**
 * Lets recorders elsewhere make the recordings that a job has still to make: sends as many at a time as the settings allow
 * for a host, over all jobs together, and stores what is handed in. What the queue has lost is sent again; a recording is
 * stored together with the note that it is done, so that none is lost or doubled.
 */
export async function recordByFleet(
  store: Store,
  task: RecordTask,
  address: string,
  control: Control,
  onProgress: (progress: JobProgress, phase: string) => void,
): Promise<void> {
  const queue = WorkQueue.open(address, await queueNameOf(store), 'recording');
  const progress = recordingProgress(onProgress);
  let away = false;
  const tried = async (work: () => Promise<void>) => {
    try {
      await work();
      away = false;
    } catch (err) {
      if (err instanceof InputError) throw err;
      if (!away) log.warn({ err: err instanceof Error ? err.message : String(err) }, 'the queue cannot be reached');
      away = true;
    }
  };
  let checked = 0;
  let before = new Set<number>();
  try {
    for (;;) {
      for (const row of await waitingOf(store, task.jobId, await handedIn(store)))
        await storeHandedIn(store, task, row);
      const rows = await listRecordings(store, task.jobId);
      for (const row of rows)
        if (row.state !== 'waiting' && before.has(row.id)) progress.ended(row, row.error ?? undefined);
      const waiting = rows.filter((r) => r.state === 'waiting');
      before = new Set(waiting.map((r) => r.id));
      if (control.wanted || waiting.length === 0) break;
      await tried(async () => {
        if (Date.now() - checked > CHECK_MS) {
          checked = Date.now();
          await check(store, task, queue);
        }
        await send(store, task, queue, waiting);
      });
      const sent = new Set(await sentRecordings(store, task.jobId));
      progress.report(rows, {
        now: waiting.filter((r) => sent.has(r.id)),
        waiting: away
          ? 'the queue cannot be reached'
          : (await hasRecorder(store))
            ? undefined
            : 'no recorder is connected',
      });
      await pause(LOOK_MS, undefined, { signal: control.signal }).catch(() => undefined);
    }
    if (control.wanted) {
      const sent = await sentRecordings(store, task.jobId);
      await recallRecordings(store, task.jobId);
      await tried(async () => {
        for (const id of sent) await queue.takeOut(id);
      });
    }
  } finally {
    await queue.close();
  }
}

async function send(store: Store, task: RecordTask, queue: WorkQueue, waiting: readonly RecordingRow[]): Promise<void> {
  const known = new Set(await sentRecordings(store, task.jobId));
  const full = new Set<string>();
  for (const row of waiting) {
    const host = hostOf(row.url);
    if (known.has(row.id) || full.has(host)) continue;
    if (await sendRecording(store, { id: row.id, host }, task.settings.captures.browsers)) await queue.put(row.id);
    else full.add(host);
  }
}

/** Sends again what is in the queue no more, and notes what has failed there for good. */
async function check(store: Store, task: RecordTask, queue: WorkQueue): Promise<void> {
  for (const id of await sentRecordings(store, task.jobId)) {
    const found = await queue.look(id);
    if (found === 'there') continue;
    if (found === 'missing') await queue.put(id);
    else {
      await recordingFailed(store, id, `No recorder could make it: ${found.failed}.`);
      await queue.takeOut(id);
    }
  }
}

/** Those of a job's recordings that are handed in and not stored yet. */
async function waitingOf(store: Store, jobId: number, ids: readonly number[]): Promise<RecordingRow[]> {
  if (ids.length === 0) return [];
  const rows = await listRecordings(store, jobId);
  return rows.filter((r) => r.state === 'waiting' && ids.includes(r.id));
}

/** Stores what was handed in, or notes what is wrong with it. */
async function storeHandedIn(store: Store, task: RecordTask, row: RecordingRow): Promise<void> {
  try {
    const result = await importHar(store, await readHandedIn(store, row.id), `recorded by sweep ${task.sweepId}`, {
      siteId: task.siteId,
      sweepId: task.sweepId,
      onStored: (tx, captures) => recordingDone(tx, row.id, captures[0]?.id ?? 0),
    });
    if (result.alreadyThere) await recordingDone(store, row.id, result.captures[0]?.id ?? 0);
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    await recordingFailed(store, row.id, `${error.what} ${error.next}`);
  }
  await forgetHandedIn(store, row.id);
}
