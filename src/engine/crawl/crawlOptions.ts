import type { JobProgress } from '../store/jobs';
import type { Control } from './control';

/** What a crawl needs besides its settings. */
export interface CrawlOptions {
  readonly control: Control;
  readonly onProgress?: (progress: JobProgress, phase: string) => void;
  /** Wait before a failed request is tried again, in ms. */
  readonly retryMs?: number;
  /** Longest time for one answer, in ms. */
  readonly maxAnswerMs?: number;
}
