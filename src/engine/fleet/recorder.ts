import { Worker, type Job } from 'bullmq';
import { InputError } from '../../core/capture/errors';
import { VERSION } from '../../core/version';
import type { RecorderFacts } from '../../core/fleet/recorder';
import { MOST_STALLED, type QueuedRecording } from './recordingQueue';
import { connectQueue } from './redis';
import type { RecordingWork } from './recordWork';
import { ServerCalls } from './serverCalls';

/** How often a recorder gives a sign of life, in ms. */
const BEAT_MS = 10_000;
/** A recording that its recorder does not renew for so long goes back into the queue, in ms. */
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
  readonly lockMs?: number;
  readonly onProgress: (line: string) => void;
}

/** A recorder at work. */
export interface Recorder {
  /** Takes nothing more, and resolves when what it has is handed in. */
  end(): Promise<void>;
}

/**
 * Takes recordings from the queue, makes them and hands them in, until it is told to end. A recording that breaks off is
 * tried again, here or elsewhere; one whose page cannot be recorded is told to the server.
 * @throws InputError when the server cannot be reached or does not take the token
 */
export async function startRecorder(options: RecorderOptions): Promise<Recorder> {
  const server = new ServerCalls(options.server, options.token, options.name);
  const connection = connectQueue(options.queue, '--queue', true);
  const busy = new Map<number, string>();
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

  const work = async (job: Job<QueuedRecording>): Promise<void> => {
    const { recording } = job.data;
    const wanted = await server.take(recording, stop.signal);
    if (!wanted) return;
    const name = `${wanted.url} as ${wanted.device}`;
    busy.set(recording, name);
    options.onProgress(`recording ${name}`);
    try {
      const har = await options.record(wanted);
      await server.handIn(recording, har, stop.signal);
      made.push(Date.now());
      options.onProgress(`handed in ${name}`);
    } catch (error) {
      const last = job.attemptsMade + 1 >= (job.opts.attempts ?? 1);
      options.onProgress(`${name}: ${textOf(error)}`);
      if (!(error instanceof InputError) && !last) throw error;
      await server.giveUp(recording, textOf(error), stop.signal);
    } finally {
      busy.delete(recording);
    }
  };
  const worker = new Worker<QueuedRecording>(first.queue, work, {
    connection,
    concurrency: options.slots,
    lockDuration: options.lockMs ?? LOCK_MS,
    stalledInterval: (options.lockMs ?? LOCK_MS) / 2,
    maxStalledCount: MOST_STALLED,
    skipVersionCheck: true,
  });
  let reachable = true;
  worker.on('error', (error) => {
    if (reachable) options.onProgress(`the queue: ${textOf(error)}`);
    reachable = false;
  });
  worker.on('active', () => (reachable = true));
  return {
    async end() {
      ending = true;
      beat();
      await worker.close();
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
