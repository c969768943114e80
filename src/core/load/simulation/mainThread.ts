import { TASK_END } from '../browser';
import type { EventQueue } from '../eventQueue';

/** One kind of task: what it costs from when it begins, in ms, and what it sets off when it ends. */
export interface TaskKind {
  begin(arg: number, now: number): number;
  end(arg: number, now: number): void;
}

/** The page's main thread: one task at a time, first come first served. */
export class MainThread {
  private readonly waiting: number[] = [];
  private kind = -1;
  private arg = -1;
  private startedMs = 0;
  /** Time beyond 50 ms in each task (Long Tasks API), in ms. */
  longTaskMs = 0;

  constructor(
    private readonly queue: EventQueue,
    /** By number of kind. */
    private readonly kinds: readonly TaskKind[],
  ) {}

  enqueue(kind: number, arg: number, now: number): void {
    this.waiting.push(kind, arg);
    if (this.kind < 0) this.begin(now);
  }

  private begin(now: number): void {
    if (this.waiting.length === 0) return;
    this.kind = this.waiting.shift() as number;
    this.arg = this.waiting.shift() as number;
    this.startedMs = now;
    const ms = (this.kinds[this.kind] as TaskKind).begin(this.arg, now);
    this.queue.push(now + ms, TASK_END, 0);
  }

  /** The task that runs has ended. */
  end(now: number): void {
    const { kind, arg } = this;
    this.longTaskMs += Math.max(0, now - this.startedMs - 50);
    this.kind = -1;
    (this.kinds[kind] as TaskKind).end(arg, now);
    if (this.kind < 0) this.begin(now);
  }
}
