import { Queue, type Job } from 'bullmq';
import type { Redis } from 'ioredis';
import { connectQueue } from './redis';

/** What a recorder finds in the queue: all else, secrets among it, it asks the server for. */
export interface QueuedRecording {
  readonly recording: number;
}

/** Times that a recorder tries, and how long it waits first, in ms; each time twice as long. */
const ATTEMPTS = 3;
const FIRST_WAIT_MS = 5000;
/** Times that a recorder may vanish with a recording before that counts as failed. */
export const MOST_STALLED = 10;

const idOf = (recording: number) => `recording-${recording}`;

/** The queue as the server sees it. Every call fails at once when the queue is away. */
export class RecordingQueue {
  private constructor(
    private readonly queue: Queue<QueuedRecording>,
    private readonly redis: Redis,
  ) {}

  static open(address: string, name: string): RecordingQueue {
    const redis = connectQueue(address, 'KEEN_LENS_QUEUE', false);
    const queue = new Queue<QueuedRecording>(name, { connection: redis, skipVersionCheck: true });
    queue.on('error', () => undefined);
    return new RecordingQueue(queue, redis);
  }

  /** Puts a recording in; one that is there stays as it is. */
  async put(recording: number): Promise<void> {
    await this.queue.add(
      'record',
      { recording },
      {
        jobId: idOf(recording),
        attempts: ATTEMPTS,
        backoff: { type: 'exponential', delay: FIRST_WAIT_MS },
        removeOnComplete: true,
        removeOnFail: false,
      },
    );
  }

  /** Whether a recording is in the queue; why it failed for good there. */
  async look(recording: number): Promise<'missing' | 'there' | { readonly failed: string }> {
    const job = (await this.queue.getJob(idOf(recording))) as Job<QueuedRecording> | undefined;
    if (!job) return 'missing';
    return (await job.isFailed()) ? { failed: job.failedReason || 'no reason was given' } : 'there';
  }

  /** Takes a recording out, unless a recorder has it: that one finds nobody who waits for it. */
  async takeOut(recording: number): Promise<void> {
    await this.queue.remove(idOf(recording)).catch(() => 0);
  }

  async close(): Promise<void> {
    await this.queue.close().catch(() => undefined);
    this.redis.disconnect();
  }
}
