import type { MixedPicture } from '../../core/pictures/mixed';
import type { MissingPlaces } from '../../engine/services/missingPlaces';

/** Mixed content of a sweep's pages, and where on them something is missing. */
export type MixedAnswer = MixedPicture & { readonly missing: readonly MissingPlaces[] };

/** Width of a first screen with its missing places, px. */
export const MISSING_WIDTH = 190;

/** Path of the table of a sweep for a device. */
export const mixedPath = (sweepId: number, device: string): string => `/api/sweeps/${sweepId}/mixed?device=${device}`;
