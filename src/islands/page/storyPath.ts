/** Width of the first screens of a page, px. */
export const SHOT_WIDTH = 168;

/** Where stands how the load of a recorded page unfolds for a visitor. */
export const storyPath = (captureId: number, visitor: string): string =>
  `/api/captures/${captureId}/story?visitor=${encodeURIComponent(visitor)}`;
