import type { Store } from '../store';

/** What a recorder tells of itself. */
export interface RecorderFacts {
  /** Version of Keen Lens and of its browser. */
  readonly version: string;
  readonly chromium: string;
  /** Where it stands, as its owner calls the place. */
  readonly region: string;
  /** It may make links of its own (Linux, as root). */
  readonly rootLink: boolean;
  /** Recordings at a time. */
  readonly slots: number;
  /** Pages that it records now. */
  readonly busy: readonly string[];
  /** Recordings a minute over the last ten minutes. */
  readonly perMinute: number;
  readonly startedAt: number;
  /** It ends what it has and takes nothing more. */
  readonly ending: boolean;
}

/** A recorder as listed. */
export interface RecorderRow extends RecorderFacts {
  readonly id: number;
  readonly name: string;
  readonly token: string;
  /** In ms since 1970. */
  readonly firstSeen: number;
  readonly lastSeen: number;
  readonly done: number;
  readonly failed: number;
}

/** A recorder that was silent for so long counts as gone, in ms. */
export const SILENT_MS = 45_000;

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

/** Whether any recorder was heard of lately. */
export async function hasRecorder(store: Store): Promise<boolean> {
  const row = await store
    .selectFrom('recorders')
    .select('id')
    .where('last_seen', '>', Date.now() - SILENT_MS)
    .executeTakeFirst();
  return row !== undefined;
}

/** Recordings that wait in the queue or are being made. */
export async function countSent(store: Store): Promise<number> {
  const row = await store
    .selectFrom('recordings')
    .innerJoin('jobs', 'jobs.id', 'recordings.job_id')
    .select((e) => e.fn.countAll<number>().as('n'))
    .where('recordings.sent_at', 'is not', null)
    .where('recordings.state', '=', 'waiting')
    .where('jobs.state', '=', 'running')
    .executeTakeFirstOrThrow();
  return row.n;
}
