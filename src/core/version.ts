/** Version of Keen Lens as written into files that leave it; the same as in package.json. */
export const VERSION = '0.1.0';
