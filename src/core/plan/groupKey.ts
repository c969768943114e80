import { shortHash } from '../hash';

/** Short form of the id of a group of fixes, for addresses. */
export const groupKey = (id: string): string => shortHash(id).slice(0, 7);
