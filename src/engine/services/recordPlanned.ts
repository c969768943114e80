import PQueue from 'p-queue';
import { InputError } from '../../core/capture/errors';
import type { SweepSettings } from '../../core/site/settings';
import type { Control } from '../crawl/control';
import { recordWork, workOf } from '../fleet/recordWork';
import { queueAddress } from '../fleet/queueAddress';
import { folderOfStore } from '../store/location';
import { ownPorts } from '../store/serverLock';
import type { JobProgress } from '../store/jobs';
import {
  addressToRecord,
  listRecordings,
  recordingDone,
  recordingFailed,
  type RecordingRow,
} from '../store/recordings';
import type { Store } from '../store/store';
import { importHar } from './importHar';
import { recordingProgress } from './recordingProgress';

/** Where recordings go and how they are made. */
export interface RecordTask {
  readonly jobId: number;
  readonly siteId: number;
  readonly sweepId: number;
  readonly settings: SweepSettings;
}

/**
 * Makes the recordings that a job has still to make, by recorders elsewhere where a queue is set. Each is stored together
 * with the note that it is done, so that none is lost or doubled. A page that cannot be recorded is noted, and the rest
 * goes on.
 */
export async function recordPlanned(
  store: Store,
  task: RecordTask,
  control: Control,
  onProgress: (progress: JobProgress, phase: string) => void,
): Promise<void> {
  const address = queueAddress();
  if (address) {
    // Who has no queue does not wait for what speaks to one.
    const { recordByFleet } = await import('../fleet/recordByFleet');
    return recordByFleet(store, task, address, control, onProgress);
  }
  const rows = new Map((await listRecordings(store, task.jobId)).map((r) => [r.id, r]));
  const busy = new Map<number, RecordingRow>();
  const progress = recordingProgress(onProgress);
  const report = () => progress.report([...rows.values()], { now: [...busy.values()] });
  const queue = new PQueue({ concurrency: task.settings.captures.browsers });
  report();
  for (const recording of [...rows.values()].filter((r) => r.state === 'waiting')) {
    void queue.add(async () => {
      if (control.wanted) return;
      busy.set(recording.id, recording);
      report();
      const fault = await recordOne(store, task, recording, control);
      busy.delete(recording.id);
      if (fault === 'stopped') return;
      rows.set(recording.id, { ...recording, state: fault === undefined ? 'done' : 'failed' });
      progress.ended(recording, fault);
      report();
    });
  }
  await queue.onIdle();
}

/** Undefined when it went well, else what is wrong with this page. */
async function recordOne(
  store: Store,
  task: RecordTask,
  recording: RecordingRow,
  control: Control,
): Promise<string | undefined | 'stopped'> {
  try {
    const har = await recordWork(workOf(await addressToRecord(store, recording), recording.device, task.settings), {
      ownPorts: ownPorts(await folderOfStore(store)),
      signal: control.signal,
    });
    await importHar(store, har, `recorded by sweep ${task.sweepId}`, {
      siteId: task.siteId,
      sweepId: task.sweepId,
      onStored: (tx, rows) => recordingDone(tx, recording.id, rows[0]?.id ?? 0),
    });
    return undefined;
  } catch (error) {
    if (control.wanted) return 'stopped';
    if (!(error instanceof InputError)) throw error;
    const fault = `${error.what} ${error.next}`;
    await recordingFailed(store, recording.id, fault);
    return fault;
  }
}
