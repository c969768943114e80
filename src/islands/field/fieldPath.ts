import type { SiteField } from '../../engine/services/siteField';

export type FieldAnswer = SiteField;

/** Where field data of a site is read, for a sweep and a visitor. */
export const fieldPath = (siteId: number, sweepId: number, visitor: string): string =>
  `/api/sites/${siteId}/field?sweep=${sweepId}&visitor=${encodeURIComponent(visitor)}`;
