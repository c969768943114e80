/** Addresses of what the frame and several screens read of a sweep. */

/** Its recorded pages for a device. */
export const overviewPath = (sweepId: number, device: string): string =>
  `/api/sweeps/${sweepId}/overview?device=${device}&groups=false`;

/** The groups of fixes that they offer. */
export const groupsPath = (sweepId: number, device: string): string => `/api/sweeps/${sweepId}/groups?device=${device}`;

/** What it says for a visitor while nothing is on the bench. */
export const forecastPath = (sweepId: number, visitor: string): string =>
  `/api/sweeps/${sweepId}/forecast?visitor=${encodeURIComponent(visitor)}`;

/** The two best fixes for each recorded page, for a visitor. */
export const bestGainsPath = (sweepId: number, visitor: string): string =>
  `/api/sweeps/${sweepId}/gains?visitor=${encodeURIComponent(visitor)}&best=2`;
