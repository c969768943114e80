/** How forecasts did against measured loads, as `npm run bench:accuracy` finds it and the application shows it. */

/** One judged figure with its target, for the pages that constants were fitted on and for the rest. */
export interface AccuracyRow {
  readonly name: string;
  readonly target: string;
  readonly fitted: string;
  readonly held: string;
  readonly ok: boolean;
}

/** Errors of changes of hero paint, as shares of the measured base. */
export interface AccuracyCell {
  readonly cases: number;
  readonly median: number;
  readonly worst: number;
}

export interface AccuracyPoint {
  readonly page: string;
  readonly variant: string;
  readonly link: string;
  readonly held: boolean;
  readonly metric: 'FCP' | 'LCP';
  /** In ms. */
  readonly base: number;
  readonly measured: number;
  readonly forecast: number;
  readonly low: number;
  readonly high: number;
}

export interface AccuracyReport {
  readonly measuredOn: string;
  readonly browser: string;
  readonly pages: number;
  readonly heldPages: number;
  /** Pages that nobody here wrote, with the errors of the changes of LCP and FCP there, as shares of the base. */
  readonly others: { readonly pages: number; readonly median: number; readonly p90: number };
  readonly variants: number;
  readonly runs: number;
  readonly links: readonly { readonly id: string; readonly name: string }[];
  readonly rows: readonly AccuracyRow[];
  readonly kinds: readonly {
    readonly kind: string;
    readonly title: string;
    readonly cells: Readonly<Record<string, AccuracyCell>>;
  }[];
  /** Changes of hero paint, every variant on every link. */
  readonly points: readonly AccuracyPoint[];
  readonly worst: readonly (AccuracyPoint & { readonly error: number; readonly why: string })[];
}
