import PQueue from 'p-queue';

/** Longest wait that a Retry-After is given (RFC 9110, section 10.2.3), in ms. */
export const MAX_WAIT_MS = 120_000;

/** Lets requests to each host through: so many at a time, so many a second, none while the host asked for a pause. */
export class HostGate {
  private readonly queues = new Map<string, PQueue>();
  private readonly pausedUntil = new Map<string, number>();
  private readonly timers = new Set<NodeJS.Timeout>();

  constructor(
    private readonly limits: { readonly parallel: number; readonly perSecond: number },
    /** Seconds between requests that a host's robots.txt asks for. */
    private readonly delayOf: (host: string) => number | undefined = () => undefined,
  ) {}

  /** Runs a task when its host may be asked. */
  run<T>(url: string, task: () => Promise<T>): Promise<T> {
    return this.queueOf(hostOf(url)).add(task) as Promise<T>;
  }

  /** True when a task for the host could start soon. */
  hasRoom(url: string): boolean {
    return this.queueOf(hostOf(url)).size < Math.max(2, this.limits.parallel);
  }

  /** Resolves when the host has fewer tasks waiting than could start soon. */
  async room(url: string): Promise<void> {
    await this.queueOf(hostOf(url)).onSizeLessThan(Math.max(2, this.limits.parallel));
  }

  /** Pauses a host for some time; a pause that has begun may only grow. */
  pause(url: string, ms: number): void {
    const host = hostOf(url);
    const until = Date.now() + Math.min(MAX_WAIT_MS, ms);
    if ((this.pausedUntil.get(host) ?? 0) >= until) return;
    this.pausedUntil.set(host, until);
    this.queueOf(host).pause();
    const timer = setTimeout(() => {
      this.timers.delete(timer);
      if ((this.pausedUntil.get(host) ?? 0) > until) return;
      this.pausedUntil.delete(host);
      this.queueOf(host).start();
    }, until - Date.now());
    this.timers.add(timer);
  }

  /** Hosts that are waited for, with the seconds left. */
  waiting(): { host: string; seconds: number }[] {
    const now = Date.now();
    return [...this.pausedUntil].map(([host, until]) => ({ host, seconds: Math.ceil((until - now) / 1000) }));
  }

  /** Forgets what has not started. */
  close(): void {
    for (const timer of this.timers) clearTimeout(timer);
    for (const queue of this.queues.values()) queue.clear();
  }

  private queueOf(host: string): PQueue {
    let queue = this.queues.get(host);
    if (!queue) {
      const delay = this.delayOf(host);
      const gap = Math.max(
        delay === undefined ? 0 : Math.min(10, delay) * 1000,
        this.limits.perSecond > 0 ? 1000 / this.limits.perSecond : 0,
      );
      queue = new PQueue({
        concurrency: delay ? 1 : this.limits.parallel,
        // One request an interval keeps them evenly apart.
        ...(gap > 0 ? { intervalCap: 1, interval: gap } : {}),
      });
      this.queues.set(host, queue);
    }
    return queue;
  }
}

const hostOf = (url: string) => /^https?:\/\/([^/?#]+)/i.exec(url)?.[1] ?? '';
