import { sql } from 'kysely';
import { SILENT_MS, type RecorderFacts, type RecorderRow } from '../../../core/fleet/recorder';
import type { Store } from '../store';

/** Notes a sign of life. */
export async function beatRecorder(store: Store, tokenId: number, name: string, facts: RecorderFacts): Promise<void> {
  const now = Date.now();
  const values = { facts: JSON.stringify(facts), last_seen: now };
  await store
    .insertInto('recorders')
    .values({ token_id: tokenId, name, first_seen: now, ...values })
    .onConflict((c) => c.columns(['token_id', 'name']).doUpdateSet(values))
    .execute();
}

/** Counts what a recorder has brought. */
export async function countForRecorder(
  store: Store,
  tokenId: number,
  name: string,
  what: 'done' | 'failed',
): Promise<void> {
  await store
    .updateTable('recorders')
    .set((e) => ({ [what]: e(what, '+', 1), last_seen: Date.now() }))
    .where('token_id', '=', tokenId)
    .where('name', '=', name)
    .execute();
}

/** All recorders, those heard of last first. */
export async function listRecorders(store: Store): Promise<RecorderRow[]> {
  const rows = await store
    .selectFrom('recorders')
    .innerJoin('api_tokens', 'api_tokens.id', 'recorders.token_id')
    .select([
      'recorders.id',
      'recorders.name',
      'api_tokens.name as token',
      'facts',
      'first_seen as firstSeen',
      'last_seen as lastSeen',
      'done',
      'failed',
    ])
    .orderBy('last_seen', 'desc')
    .limit(500)
    .execute();
  return rows.map(({ facts, ...row }) => ({ ...(JSON.parse(facts) as RecorderFacts), ...row }));
}

/** Forgets a recorder; one that is still there comes back with its next sign of life. */
export async function removeRecorder(store: Store, id: number): Promise<boolean> {
  const result = await store.deleteFrom('recorders').where('id', '=', id).executeTakeFirst();
  return result.numDeletedRows > 0n;
}

/** Whether any recorder was heard of lately; one that makes links of its own where that is needed. */
export async function hasRecorder(store: Store, rootLink = false): Promise<boolean> {
  const row = await store
    .selectFrom('recorders')
    .select('id')
    .where('last_seen', '>', Date.now() - SILENT_MS)
    .$if(rootLink, (q) => q.where(sql`facts ->> 'rootLink'`, '=', 1))
    .executeTakeFirst();
  return row !== undefined;
}

/** Recordings, probes and proofs that wait in the queue or are being made. */
export async function countSent(store: Store): Promise<number> {
  const tasks = await store
    .selectFrom('remote_tasks')
    .innerJoin('jobs', 'jobs.id', 'remote_tasks.job_id')
    .select((e) => e.fn.countAll<number>().as('n'))
    .where('sent_at', 'is not', null)
    .where('jobs.state', '=', 'running')
    .executeTakeFirstOrThrow();
  const row = await store
    .selectFrom('recordings')
    .innerJoin('jobs', 'jobs.id', 'recordings.job_id')
    .select((e) => e.fn.countAll<number>().as('n'))
    .where('recordings.sent_at', 'is not', null)
    .where('recordings.state', '=', 'waiting')
    .where('jobs.state', '=', 'running')
    .executeTakeFirstOrThrow();
  return row.n + tasks.n;
}
