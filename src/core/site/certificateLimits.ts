/** Fewer days left than this leave no time to notice a failed renewal and repair it. */
export const MIN_DAYS_LEFT = 21;
