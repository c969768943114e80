import type { SweepCounts, Visit } from '../store/crawlPages';
import type { JobProgress } from '../store/jobs';

/** What is known of a crawl besides its tally. */
export interface CrawlState {
  readonly known: number;
  readonly maxPages: number;
  /** Addresses being fetched. */
  readonly busy: Iterable<string>;
  readonly waiting?: { readonly host: string; readonly seconds: number };
}

/** Counts what a crawl brings and how fast. */
export class Tally {
  private readonly n = { done: 0, failed: 0, skipped: 0, redirects: 0, missing: 0, mentions: 0, bytes: 0 };
  private readonly samples: { at: number; done: number }[] = [];
  private recent: JobProgress['recent'] = [];

  /** Pages that were fetched, or could not be. */
  get visited(): number {
    return this.n.done + this.n.failed;
  }

  /** Goes on from what an earlier run stored. */
  begin(counts: SweepCounts): void {
    const { done, failed, skipped, redirects, missing, mentions, bytes } = counts;
    Object.assign(this.n, { done, failed, skipped, redirects, missing, mentions, bytes });
  }

  add(url: string, visit: Visit): void {
    const { n } = this;
    n[visit.state]++;
    if (visit.redirectTo) n.redirects++;
    if ((visit.status ?? 0) >= 400) n.missing++;
    n.mentions += visit.mentions.length;
    n.bytes += visit.transferBytes ?? 0;
    const result = visit.why ?? `${visit.status ?? ''}${visit.redirectTo ? ` to ${visit.redirectTo}` : ''}`;
    const ok = visit.state !== 'failed' && (visit.status ?? 200) < 400;
    this.recent = [{ what: url, result, ok }, ...this.recent.slice(0, 7)];
  }

  /** Counts, rate over the last ten seconds, and the time that is left at that rate. */
  progress(state: CrawlState, now: number): JobProgress {
    const { n, samples } = this;
    const done = n.done + n.failed + n.skipped;
    if (!samples.length || now - (samples.at(-1)?.at ?? 0) >= 500) samples.push({ at: now, done });
    while (samples.length > 2 && now - (samples[0]?.at ?? 0) > 10_000) samples.shift();
    const first = samples[0];
    const perSecond = first && now > first.at ? ((done - first.done) * 1000) / (now - first.at) : undefined;
    const total = Math.max(done, Math.min(state.maxPages, state.known));
    const { redirects, missing, mentions, skipped, bytes } = n;
    return {
      done,
      total,
      failed: n.failed,
      perSecond,
      secondsLeft: perSecond ? (total - done) / perSecond : undefined,
      now: [...state.busy].slice(0, 8),
      recent: this.recent,
      waiting: state.waiting && `${state.waiting.host} asked for peace: ${state.waiting.seconds} s left`,
      counts: { known: state.known, redirects, missing, mentions, skipped, bytes },
    };
  }
}
