import { Worker, type Job } from 'bullmq';
import { InputError } from '../../core/capture/errors';
import { VERSION } from '../../core/version';
import type { RecorderFacts } from '../../core/fleet/recorder';
import { packParts, unpackParts } from './packParts';
import { connectQueue } from './redis';
import type { RecordingWork } from './recordWork';
import type { TaskWork } from './remoteTask';
import { ServerCalls } from './serverCalls';
import { SideBySide } from './sideBySide';
import { MOST_STALLED, rootQueueOf, type QueuedWork } from './workQueue';

/** How often a recorder gives a sign of life, in ms. */
const BEAT_MS = 10_000;
/** What its recorder does not renew for so long goes back into the queue, in ms. */
const LOCK_MS = 30_000;
/** Time over which the speed is told, in ms. */
const SPEED_MS = 600_000;

/** What a recorder is started with. */
export interface RecorderOptions {
  readonly queue: string;
  readonly server: string;
  readonly token: string;
  readonly name: string;
  readonly region: string;
  readonly chromium: string;
  readonly rootLink: boolean;
  readonly slots: number;
  /** Makes a recording. @throws PageError when the page cannot be recorded */
  readonly record: (work: RecordingWork) => Promise<Uint8Array>;
  /** Does a probe or a proof. @throws PageError when it cannot be done */
  readonly task: (work: TaskWork) => Promise<unknown>;
  readonly lockMs?: number;
  readonly onProgress: (line: string) => void;
}

/** A recorder at work. */
export interface Recorder {
  /** Takes nothing more, and resolves when what it has is handed in. */
  end(): Promise<void>;
}

/**
 * Takes recordings, probes and proofs from the queue, does them and hands in what they bring, until it is told to end.
 * What breaks off is tried again, here or elsewhere; what cannot be done is told to the server. A proof measures: nothing
 * else is done beside it.
 * @throws InputError when the server cannot be reached or does not take the token
 */
export async function startRecorder(options: RecorderOptions): Promise<Recorder> {
  const server = new ServerCalls(options.server, options.token, options.name);
  const connection = connectQueue(options.queue, '--queue', true);
  const busy = new Map<string, string>();
  const sideBySide = new SideBySide();
  const made: number[] = [];
  const startedAt = Date.now();
  const stop = new AbortController();
  let ending = false;
  const facts = (): RecorderFacts => {
    const since = Math.max(Date.now() - SPEED_MS, startedAt);
    const minutes = Math.max(Date.now() - since, 1000) / 60_000;
    while ((made[0] ?? since) < since) made.shift();
    return {
      version: VERSION,
      chromium: options.chromium,
      region: options.region,
      rootLink: options.rootLink,
      slots: options.slots,
      busy: [...busy.values()],
      perMinute: made.length / minutes,
      startedAt,
      ending,
    };
  };
  const first = await server.beat(facts()).catch((error: unknown) => {
    connection.disconnect();
    throw error;
  });
  if (first.version !== VERSION)
    options.onProgress(`the server is of version ${first.version}, this recorder of ${VERSION}`);
  const beat = () => void server.beat(facts()).catch((error: unknown) => options.onProgress(textOf(error)));
  const timer = setInterval(beat, BEAT_MS);

  /** Does one piece of work and hands in what it brings. */
  const finish = async (job: Job<QueuedWork>, path: string, name: string, make: () => Promise<Uint8Array>) => {
    busy.set(path, name);
    options.onProgress(`begun: ${name}`);
    try {
      await server.handIn(path, await make(), stop.signal);
      options.onProgress(`handed in: ${name}`);
    } catch (error) {
      const last = job.attemptsMade + 1 >= (job.opts.attempts ?? 1);
      options.onProgress(`${name}: ${textOf(error)}`);
      if (!(error instanceof InputError) && !last) throw error;
      await server.giveUp(path, textOf(error), stop.signal);
    } finally {
      busy.delete(path);
    }
  };
  const record = async (job: Job<QueuedWork>): Promise<void> => {
    const path = `work/${job.data.id}`;
    const wanted = await server.take(path, stop.signal);
    if (!wanted) return;
    const work = JSON.parse(wanted.toString('utf8')) as RecordingWork;
    await finish(job, path, `${work.url} as ${work.device}`, async () => {
      const har = await options.record(work);
      made.push(Date.now());
      return har;
    });
  };
  const doTask = async (job: Job<QueuedWork>): Promise<void> => {
    const path = `tasks/${job.data.id}`;
    const wanted = await server.take(path, stop.signal);
    if (!wanted) return;
    const work = unpackParts(wanted, options.server) as TaskWork;
    const make = () =>
      finish(job, path, `${work.kind} of ${work.title}`, async () => {
        if (work.version !== VERSION)
          throw new InputError(
            `The recorder ${options.name} is of version ${VERSION}, the server of ${work.version}.`,
            options.server,
            'Update both to one version.',
          );
        return packParts(await options.task(work));
      });
    await (work.kind === 'proof' ? sideBySide.alone(make) : sideBySide.shared(make));
  };
  const work = (job: Job<QueuedWork>) =>
    job.data.kind === 'recording' ? sideBySide.shared(() => record(job)) : doTask(job);
  let reachable = true;
  const takeFrom = (queue: string) => {
    const worker = new Worker<QueuedWork>(queue, work, {
      connection,
      concurrency: options.slots,
      lockDuration: options.lockMs ?? LOCK_MS,
      stalledInterval: (options.lockMs ?? LOCK_MS) / 2,
      maxStalledCount: MOST_STALLED,
      skipVersionCheck: true,
    });
    worker.on('error', (error) => {
      if (reachable) options.onProgress(`the queue: ${textOf(error)}`);
      reachable = false;
    });
    worker.on('active', () => (reachable = true));
    return worker;
  };
  const workers = [takeFrom(first.queue), ...(options.rootLink ? [takeFrom(rootQueueOf(first.queue))] : [])];
  return {
    async end() {
      ending = true;
      beat();
      await Promise.all(workers.map((w) => w.close()));
      clearInterval(timer);
      await server.beat(facts()).catch(() => undefined);
      stop.abort();
      connection.disconnect();
    },
  };
}

const textOf = (error: unknown): string =>
  error instanceof InputError
    ? `${error.what} ${error.next}`
    : error instanceof Error
      ? error.message || (error as NodeJS.ErrnoException).code || error.name
      : String(error);
