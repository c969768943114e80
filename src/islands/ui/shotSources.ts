/** A screenshot as large as it is drawn, for screens of one and of two points a pixel (HTML, 4.8.4.2.1). */
export interface ShotSources {
  readonly src: string;
  readonly srcSet: string;
}

/** Where a screenshot stands that is drawn so many CSS pixels wide. */
export function shotSources(hash: string, width: number): ShotSources {
  const at = (density: number) => `/api/bodies/${hash}?width=${density * Math.round(width)}`;
  return { src: at(2), srcSet: `${at(1)} 1x, ${at(2)} 2x` };
}
