import { setMaxListeners } from 'node:events';

/** What a person may ask of work that is running. */
export type Wanted = 'pause' | 'cancel';

/** Tells long work to stop; its signal ends what waits. */
export class Control {
  private readonly controller = new AbortController();
  private asked: Wanted | undefined;

  /** Resolves when the work is asked to stop. */
  readonly stopped: Promise<void>;

  constructor() {
    // Every open request listens.
    setMaxListeners(0, this.controller.signal);
    this.stopped = new Promise((done) =>
      this.controller.signal.addEventListener('abort', () => done(), { once: true }),
    );
  }

  get signal(): AbortSignal {
    return this.controller.signal;
  }

  get wanted(): Wanted | undefined {
    return this.asked;
  }

  stop(wanted: Wanted): void {
    this.asked = wanted;
    this.controller.abort();
  }
}
