import type { SweepNote } from './crawlPages';
import type { Store } from './store';

/** What a sweep cut off, waited out or could not read. */
export function listNotes(store: Store, sweepId: number): Promise<SweepNote[]> {
  return store
    .selectFrom('sweep_notes')
    .select(['kind', 'about', 'count', 'example', 'source', 'what'])
    .where('sweep_id', '=', sweepId)
    .orderBy('kind')
    .orderBy('count', 'desc')
    .limit(500)
    .$castTo<SweepNote>()
    .execute();
}
