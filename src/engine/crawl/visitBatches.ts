import type { NewPage, Visit } from '../store/crawlPages';

/** Visits stored at a time: a crash loses this many at most, and they are visited again. */
const BATCH = 100;
const BATCH_MS = 300;

/** What was found and visited since the last batch. */
export interface VisitBatch {
  readonly found: readonly NewPage[];
  readonly visits: readonly Visit[];
}

/** Collects what a crawl finds and visits, and stores it batch after batch, never two at once. */
export class VisitBatches {
  private found: NewPage[] = [];
  private visits: Visit[] = [];
  private storing: Promise<void> = Promise.resolve();
  private timer: NodeJS.Timeout | undefined;
  /** What the first batch that could not be stored met with; none is stored after it. */
  fault: unknown;

  constructor(
    private readonly store: (batch: VisitBatch) => Promise<void>,
    /** True where there is something to store besides visits. */
    private readonly more: () => boolean,
  ) {}

  /** Visits that wait to be stored. */
  get waiting(): number {
    return this.visits.length;
  }

  find(page: NewPage): void {
    this.found.push(page);
  }

  add(visit: Visit): void {
    this.visits.push(visit);
    if (this.visits.length >= BATCH) void this.flush();
    else this.timer ??= setTimeout(() => void this.flush(), BATCH_MS);
  }

  /** Stores what waits, after what is being stored. */
  flush(): Promise<void> {
    this.close();
    this.storing = this.storing.then(async () => {
      if (this.fault || (this.visits.length === 0 && !this.more())) return;
      const { visits, found } = this;
      this.visits = [];
      this.found = [];
      try {
        await this.store({ found, visits });
      } catch (error) {
        this.fault = error;
      }
    });
    return this.storing;
  }

  /** Lets no batch begin by itself. */
  close(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
  }
}
