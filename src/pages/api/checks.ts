import { CHECKS } from '../../core/checks';
import { wordsOf } from '../../core/checks/words';
import { json, route } from './_answer';

/** Every check with its question, limits and words. */
export const GET = route(() => Promise.resolve(json({ checks: CHECKS.map(wordsOf) })));
