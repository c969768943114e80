/** One step of a way from an address to where it ends. */
export interface Hop {
  readonly url: string;
  /** HTTP status; 0 when no answer came. */
  readonly status: number;
  readonly ms: number;
  readonly kind: 'http' | 'meta';
  /** What went wrong instead of an answer. */
  readonly fault?: string;
}
