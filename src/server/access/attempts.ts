/** Wrong passwords that may be sent before whoever sends them has to wait. */
const FREE_ATTEMPTS = 5;
const LONGEST_WAIT_S = 300;
/** After so long without an attempt a name or address starts afresh. */
const FORGET_MS = 3_600_000;
const MOST_KEYS = 10_000;

/** Counts wrong passwords by name or address: each one more doubles the wait. */
export class Attempts {
  private readonly failures = new Map<string, { times: number; until: number; last: number }>();

  constructor(private readonly now: () => number = Date.now) {}

  /** Seconds to wait; 0 for who may try. */
  waitS(key: string): number {
    const known = this.failures.get(key);
    return known ? Math.max(0, Math.ceil((known.until - this.now()) / 1000)) : 0;
  }

  failed(key: string): void {
    const now = this.now();
    const known = this.failures.get(key);
    const times = known && now - known.last < FORGET_MS ? known.times + 1 : 1;
    const waitS = times < FREE_ATTEMPTS ? 0 : Math.min(LONGEST_WAIT_S, 2 ** (times - FREE_ATTEMPTS));
    this.failures.delete(key);
    this.failures.set(key, { times, until: now + waitS * 1000, last: now });
    if (this.failures.size > MOST_KEYS) this.failures.delete(this.failures.keys().next().value as string);
  }

  succeeded(key: string): void {
    this.failures.delete(key);
  }
}
