import PQueue from 'p-queue';
import { InputError } from '../../core/capture/errors';
import { VISITORS } from '../../core/load/visitors';
import type { SweepSettings } from '../../core/site/settings';
import { VERSION } from '../../core/version';
import type { Control } from '../crawl/control';
import { folderOfStore } from '../store/location';
import { ownPorts } from '../store/serverLock';
import { recordPages } from '../record/record';
import { harFile } from '../record/writeHar';
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

/** Where recordings go and how they are made. */
export interface RecordTask {
  readonly jobId: number;
  readonly siteId: number;
  readonly sweepId: number;
  readonly settings: SweepSettings;
}

/**
 * Makes the recordings that a job has still to make. Each is stored together with the note that it is done, so
 * that none is lost or doubled. A page that cannot be recorded is noted, and the rest goes on.
 */
export async function recordPlanned(
  store: Store,
  task: RecordTask,
  control: Control,
  onProgress: (progress: JobProgress, phase: string) => void,
): Promise<void> {
  const all = await listRecordings(store, task.jobId);
  const waiting = all.filter((r) => r.state === 'waiting');
  const started = Date.now();
  const busy = new Map<number, string>();
  const tally = {
    made: 0,
    done: all.filter((r) => r.state === 'done').length,
    failed: all.filter((r) => r.state === 'failed').length,
  };
  let recent: JobProgress['recent'] = [];
  const report = () => {
    const perSecond = tally.made > 0 ? (tally.made * 1000) / (Date.now() - started) : undefined;
    const done = tally.done + tally.failed;
    onProgress(
      {
        done,
        total: all.length,
        failed: tally.failed,
        perSecond,
        secondsLeft: perSecond ? (all.length - done) / perSecond : undefined,
        now: [...busy.values()],
        recent,
        counts: { captures: tally.done },
      },
      'recording pages',
    );
  };
  const queue = new PQueue({ concurrency: task.settings.captures.browsers });
  report();
  for (const recording of waiting) {
    void queue.add(async () => {
      if (control.wanted) return;
      busy.set(recording.id, `${recording.url} as ${recording.device}`);
      report();
      const fault = await recordOne(store, task, recording, control);
      busy.delete(recording.id);
      if (fault === 'stopped') return;
      tally.made++;
      if (fault === undefined) tally.done++;
      else tally.failed++;
      recent = [
        { what: `${recording.url} as ${recording.device}`, result: fault ?? 'recorded', ok: fault === undefined },
        ...recent.slice(0, 7),
      ];
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
  const { settings } = task;
  const visitor = VISITORS.find((v) => v.touch === (recording.device === 'phone'));
  if (!visitor) throw new Error(`no visitor has a ${recording.device}`);
  try {
    const pages = await recordPages([await addressToRecord(store, recording)], {
      ownPorts: ownPorts(await folderOfStore(store)),
      visitor,
      runs: settings.captures.runs,
      mapHosts: settings.mapHosts,
      acceptAnyCertificate: settings.acceptAnyCertificate,
      allowPrivate: settings.allowPrivate,
      headers: Object.fromEntries(settings.headers.map((h) => [h.name, h.value])),
      basicAuth: settings.basicAuth,
      signal: control.signal,
    });
    await importHar(store, Buffer.from(harFile(pages, VERSION)), `recorded by sweep ${task.sweepId}`, {
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
