/** Below this a step of the staircase is not worth showing as a win, in ms. */
export const STOPS_PAYING_MS = 100;

/** An overlap of two fixes that is smaller than this is not worth a word, in ms. */
export const OVERLAP_MS = 60;
