import type { Check } from './finding';

/** What a check says of itself: all of it but the examining. */
export type CheckWords = Omit<Check, 'examine'>;

/** A check's words, for those who show them and do not examine. */
export function wordsOf({ examine: _, ...words }: Check): CheckWords {
  return words;
}
