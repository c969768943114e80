import { Queue, type Job } from 'bullmq';
import type { Redis } from 'ioredis';
import { connectQueue } from './redis';

/** What a recorder finds in the queue, by its number: all else, secrets among it, it asks the server for. */
export interface QueuedWork {
  readonly kind: WorkKind;
  readonly id: number;
}

/** Recordings, and tasks: probes and proofs. */
export type WorkKind = 'recording' | 'task';

/** Times that a recorder tries, and how long it waits first, in ms; each time twice as long. */
const ATTEMPTS = 3;
const FIRST_WAIT_MS = 5000;
/** Times that a recorder may vanish with its work before that counts as failed. */
export const MOST_STALLED = 10;

/** The queue of what only recorders with links of their own can do. */
export const rootQueueOf = (name: string): string => `${name}-root`;

/** The queue as the server sees it. Every call fails at once when the queue is away. */
export class WorkQueue {
  private constructor(
    private readonly queue: Queue<QueuedWork>,
    private readonly redis: Redis,
    private readonly kind: WorkKind,
  ) {}

  static open(address: string, name: string, kind: WorkKind): WorkQueue {
    const redis = connectQueue(address, 'KEEN_LENS_QUEUE', false);
    const queue = new Queue<QueuedWork>(name, { connection: redis, skipVersionCheck: true });
    queue.on('error', () => undefined);
    return new WorkQueue(queue, redis, kind);
  }

  private idOf(id: number): string {
    return `${this.kind}-${id}`;
  }

  /** Puts something in; what is there stays as it is. */
  async put(id: number): Promise<void> {
    await this.queue.add(
      this.kind,
      { kind: this.kind, id },
      {
        jobId: this.idOf(id),
        attempts: ATTEMPTS,
        backoff: { type: 'exponential', delay: FIRST_WAIT_MS },
        removeOnComplete: true,
        removeOnFail: false,
      },
    );
  }

  /** Whether something is in the queue; why it failed for good there. */
  async look(id: number): Promise<'missing' | 'there' | { readonly failed: string }> {
    const job = (await this.queue.getJob(this.idOf(id))) as Job<QueuedWork> | undefined;
    if (!job) return 'missing';
    return (await job.isFailed()) ? { failed: job.failedReason || 'no reason was given' } : 'there';
  }

  /** Takes something out, unless a recorder has it: that one finds nobody who waits for it. */
  async takeOut(id: number): Promise<void> {
    await this.queue.remove(this.idOf(id)).catch(() => 0);
  }

  async close(): Promise<void> {
    await this.queue.close().catch(() => undefined);
    this.redis.disconnect();
  }
}
