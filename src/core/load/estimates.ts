/** Costs of main-thread work where a recording does not tell, in ms for each byte or element at factor 1. */
export const ESTIMATED_WORK = {
  scriptPerByte: 0.00012,
  parsePerByte: 0.00008,
  firstFrameMs: 8,
  firstFramePerElement: 0.012,
  laterFrameMs: 1.5,
  /** Points of a picture for each byte of its file. */
  pixelsPerByte: 7,
};
