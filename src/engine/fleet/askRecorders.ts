import { setTimeout as pause } from 'node:timers/promises';
import { InputError, PageError } from '../../core/capture/errors';
import type { Control } from '../crawl/control';
import { log } from '../log';
import type { JobProgress } from '../store/jobs';
import { hasRecorder } from '../store/fleet/recorders';
import { addRemoteTask, faultOfTask, removeRemoteTask, sendRemoteTask } from '../store/fleet/remoteTasks';
import type { RemoteTaskKind } from '../store/fleetSchema';
import type { Store } from '../store/store';
import { packParts, unpackParts } from './packParts';
import { queueNameOf } from './queueAddress';
import { readResult, type RemoteTasks } from './remoteTask';
import { readTaskResult, removeTaskFiles, writeTaskInput } from './taskFiles';
import { rootQueueOf, WorkQueue } from './workQueue';

/** How often a job looks whether its result is there, in ms. */
const LOOK_MS = 150;
/** How often it makes sure that its task is in the queue: the queue may have lost everything. */
const CHECK_MS = 3000;

/** A task for a recorder. */
export interface AskedTask<K extends RemoteTaskKind> {
  readonly jobId: number;
  readonly kind: K;
  /** What it is about; one of a kind in its job. */
  readonly title: string;
  /** The host that it asks: so many recorders ask it at a time, recordings included. */
  readonly host: string | null;
  readonly mostOfHost: number;
  /** Only a recorder that makes links of its own can do it. */
  readonly rootLink?: boolean;
  readonly input: RemoteTasks[K]['input'];
}

/**
 * Lets a recorder elsewhere do a task, and waits for its result. A job that goes on after a crash finds the result that
 * came meanwhile; what the queue has lost is sent again; a job that stops takes its task back.
 * @throws PageError with what a recorder said when it cannot be done; the reason of the signal
 */
export async function askRecorders<K extends RemoteTaskKind>(
  store: Store,
  asked: AskedTask<K>,
  address: string,
  control: Control,
  onProgress: (progress: JobProgress, phase: string) => void,
): Promise<RemoteTasks[K]['result']> {
  const { kind, title } = asked;
  const name = await queueNameOf(store);
  const queue = WorkQueue.open(address, asked.rootLink ? rootQueueOf(name) : name, 'task');
  const task = await addRemoteTask(store, { jobId: asked.jobId, kind, title, host: asked.host });
  try {
    await writeTaskInput(store, task.id, packParts(asked.input));
    let sent = false;
    let away = false;
    for (let checked = 0; ;) {
      control.signal.throwIfAborted();
      const handedIn = await readTaskResult(store, task.id);
      if (handedIn) return readResult(kind, unpackParts(handedIn, title), title);
      const fault = await faultOfTask(store, task.id);
      if (fault !== undefined) throw new PageError(fault, title, 'The screen Recorders says who is there.');
      if (Date.now() - checked > CHECK_MS) {
        checked = Date.now();
        try {
          sent ||= await sendRemoteTask(store, task, asked.mostOfHost);
          if (sent) await putAgain(queue, task.id, title);
          away = false;
        } catch (err) {
          if (err instanceof InputError) throw err;
          if (!away) log.warn({ err: err instanceof Error ? err.message : String(err) }, 'the queue cannot be reached');
          away = true;
        }
      }
      onProgress(
        {
          done: 0,
          total: 1,
          failed: 0,
          now: sent ? [title] : [],
          recent: [],
          counts: {},
          waiting: away ? 'the queue cannot be reached' : await whyItWaits(store, sent, asked),
        },
        kind === 'proof' ? 'proving' : 'probing entrances',
      );
      await pause(LOOK_MS, undefined, { signal: control.signal });
    }
  } finally {
    await removeRemoteTask(store, task.id);
    await removeTaskFiles(store, task.id);
    await queue.takeOut(task.id);
    await queue.close();
  }
}

async function whyItWaits(
  store: Store,
  sent: boolean,
  { host, rootLink }: Pick<AskedTask<RemoteTaskKind>, 'host' | 'rootLink'>,
): Promise<string | undefined> {
  if (!(await hasRecorder(store, rootLink)))
    return rootLink
      ? 'no recorder that makes links of its own (Linux, as root) is connected'
      : 'no recorder is connected';
  return sent ? undefined : `others ask ${host ?? 'its host'} for something`;
}

/** Puts a task in if the queue has lost it. @throws PageError when it failed there for good */
async function putAgain(queue: WorkQueue, id: number, title: string): Promise<void> {
  const found = await queue.look(id);
  if (found === 'missing') await queue.put(id);
  else if (found !== 'there')
    throw new PageError(
      `No recorder could do it: ${found.failed}.`,
      title,
      'See what the recorders say, then try again.',
    );
}
