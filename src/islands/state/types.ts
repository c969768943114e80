import type { CaptureRow } from '../../engine/store/captures';
import type { SweepRow } from '../../engine/store/sweeps';
import type { SiteRow } from '../../engine/store/sites';
import type { SweepOverview } from '../../engine/services/sweepOverview';

/** Answers of the API as the screens use them (types only: no server code comes along). */
export type { CaptureView, LoadRow, ShownFinding, WholeCapture } from '../../engine/services/captureView';
export type { SiteSummary } from '../../engine/services/summariseSites';
export type { ImportResult } from '../../engine/services/importHar';
export type { FindingRow } from '../../engine/store/findings';
export type { SweepNews } from '../../engine/services/sweepNews';
export type { CaptureRow };

export type SiteAnswer = SiteRow & { readonly sweeps: readonly SweepRow[]; readonly unread: number };

/** A sweep's recorded pages for one device. */
export type OverviewAnswer = Omit<SweepOverview, 'groups'> & {
  readonly sweep: { readonly id: number; readonly day: string };
};
