/** Where the causes of a sweep are asked for as the Brief sums them up. */
export const briefPath = (sweepId: number, device: string) => `/api/sweeps/${sweepId}/brief?device=${device}`;
