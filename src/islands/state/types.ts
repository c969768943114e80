import type { CaptureRow } from '../../engine/store/captures';
import type { SweepRow } from '../../engine/store/sweeps';
import type { SiteRow } from '../../engine/store/sites';
import type { BenchRow } from '../../engine/services/benchPages';

/** Answers of the API as the screens use them (types only: no server code comes along). */
export type { CaptureView, LoadRow, ShownFinding } from '../../engine/services/captureView';
export type { SiteSummary } from '../../engine/services/summariseSites';
export type { ImportResult } from '../../engine/services/importHar';
export type { FindingRow } from '../../engine/store/findings';
export type { SweepNews } from '../../engine/services/sweepNews';
export type { CaptureRow };

export type SiteAnswer = SiteRow & { readonly sweeps: readonly SweepRow[] };

export interface BenchAnswerPages {
  readonly sweep: { readonly id: number; readonly day: string };
  readonly device: 'phone' | 'desktop';
  readonly counts: Readonly<Record<string, number>>;
  readonly pages: readonly BenchRow[];
}
