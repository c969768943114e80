import { jobType, LANE_WIDTH, laneOf, type JobKind } from '../jobs/kinds';
import type { JobState } from './schema';
import type { Store } from './store';
import { sealerOf } from './sealed';

/** Counts and times of a job that runs. */
export interface JobProgress {
  readonly done: number;
  /** Known so far; more may be found. */
  readonly total: number;
  readonly failed: number;
  readonly perSecond?: number;
  readonly secondsLeft?: number;
  /** What is being worked on now. */
  readonly now: readonly string[];
  /** The last things done, the latest first. */
  readonly recent: readonly { readonly what: string; readonly result: string; readonly ok: boolean }[];
  /** A pause that a host asked for, and the like. */
  readonly waiting?: string;
  /** Counts to show, by name. */
  readonly counts: Readonly<Record<string, number>>;
}

/** What went wrong, as shown. */
export interface JobError {
  readonly what: string;
  readonly where: string;
  readonly next: string;
}

/** A job as listed. */
export interface JobRow {
  readonly id: number;
  readonly kind: JobKind;
  readonly siteId: number | null;
  readonly sweepId: number | null;
  readonly title: string;
  readonly state: JobState;
  readonly wanted: 'pause' | 'cancel' | null;
  readonly phase: string | null;
  readonly progress?: JobProgress;
  readonly error?: JobError;
  readonly createdAt: string;
  readonly startedAt: string | null;
  readonly endedAt: string | null;
  /** Jobs of its lane that come first; only while queued. */
  readonly place?: number;
}

const columns = [
  'id',
  'kind',
  'site_id as siteId',
  'sweep_id as sweepId',
  'title',
  'state',
  'wanted',
  'phase',
  'progress',
  'error',
  'created_at as createdAt',
  'started_at as startedAt',
  'ended_at as endedAt',
] as const;

type RawJob = Omit<JobRow, 'progress' | 'error' | 'place'> & { progress: string | null; error: string | null };

const open = (row: RawJob): JobRow => ({
  ...row,
  progress: row.progress ? (JSON.parse(row.progress) as JobProgress) : undefined,
  error: row.error ? (JSON.parse(row.error) as JobError) : undefined,
});

/** The latest jobs first, with their place in the queue. */
export async function listJobs(store: Store, limit = 30): Promise<JobRow[]> {
  const rows = await store.selectFrom('jobs').select(columns).orderBy('id', 'desc').limit(limit).execute();
  const queued = rows.filter((r) => r.state === 'queued' || r.state === 'running');
  return rows.map((r) => ({
    ...open(r),
    place:
      r.state === 'queued'
        ? queued.filter((q) => laneOf(q.kind) === laneOf(r.kind) && (q.state === 'running' || q.id < r.id)).length
        : undefined,
  }));
}

/** Jobs of a site that have not ended. */
export async function openJobs(store: Store, siteId: number): Promise<JobRow[]> {
  const rows = await store
    .selectFrom('jobs')
    .select(columns)
    .where('site_id', '=', siteId)
    .where('state', 'in', ['queued', 'running', 'paused'])
    .execute();
  return rows.map(open);
}

export async function findJob(store: Store, id: number): Promise<JobRow | undefined> {
  const row = await store.selectFrom('jobs').select(columns).where('id', '=', id).executeTakeFirst();
  return row && open(row);
}

/** What a job was asked to do, as it was given to addJob; kept encrypted, since it may hold headers and a password. */
export async function jobInput<T>(store: Store, id: number): Promise<T | undefined> {
  const row = await store.selectFrom('jobs').select('input').where('id', '=', id).executeTakeFirst();
  return row && (JSON.parse((await sealerOf(store)).open(row.input)) as T);
}

export async function addJob(
  store: Store,
  job: { kind: JobKind; title: string; input: unknown; siteId?: number; sweepId?: number },
): Promise<number> {
  const row = await store
    .insertInto('jobs')
    .values({
      kind: job.kind,
      title: job.title,
      site_id: job.siteId ?? null,
      sweep_id: job.sweepId ?? null,
      state: 'queued',
      input: (await sealerOf(store)).seal(JSON.stringify(job.input)),
      created_at: new Date().toISOString(),
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  return row.id;
}

/** Takes a queued job for a process; false when another was faster. */
export async function claimJob(store: Store, id: number, owner: string): Promise<boolean> {
  const now = new Date();
  const result = await store
    .updateTable('jobs')
    .set((e) => ({
      state: 'running',
      owner,
      beat_at: now.getTime(),
      error: null,
      ended_at: null,
      started_at: e.fn.coalesce('started_at', e.val(now.toISOString())),
    }))
    .where('id', '=', id)
    .where('state', '=', 'queued')
    .executeTakeFirst();
  return result.numUpdatedRows > 0n;
}

/** The next queued jobs of each lane that has room. */
export async function nextJobs(store: Store): Promise<{ id: number; kind: JobKind }[]> {
  const rows = await store
    .selectFrom('jobs')
    .select(['id', 'kind', 'state'])
    .where('state', 'in', ['queued', 'running'])
    .orderBy('id')
    .execute();
  const room = { ...LANE_WIDTH };
  for (const row of rows) if (row.state === 'running') room[laneOf(row.kind)]--;
  const out: { id: number; kind: JobKind }[] = [];
  for (const row of rows) {
    if (row.state === 'running' || room[laneOf(row.kind)] <= 0) continue;
    room[laneOf(row.kind)]--;
    out.push({ id: row.id, kind: row.kind });
  }
  return out;
}

/** Running jobs with the process that has them, and what was asked of them. */
export function runningJobs(
  store: Store,
): Promise<{ id: number; owner: string | null; beatAt: number | null; wanted: 'pause' | 'cancel' | null }[]> {
  return store
    .selectFrom('jobs')
    .select(['id', 'owner', 'beat_at as beatAt', 'wanted'])
    .where('state', '=', 'running')
    .execute();
}

/** A job whose process is gone waits for the next one; one that was asked to pause is paused. */
export async function releaseJob(store: Store, id: number): Promise<void> {
  await store
    .updateTable('jobs')
    .set((e) => ({
      state: e
        .case()
        .when('wanted', '=', 'pause')
        .then('paused' as const)
        .else('queued' as const)
        .end(),
      wanted: e.case().when('wanted', '=', 'pause').then(null).else(e.ref('wanted')).end(),
      owner: null,
    }))
    .where('id', '=', id)
    .where('state', '=', 'running')
    .execute();
}

export async function reportJob(store: Store, id: number, progress: JobProgress, phase?: string): Promise<void> {
  await store
    .updateTable('jobs')
    .set({ progress: JSON.stringify(progress), beat_at: Date.now(), ...(phase === undefined ? {} : { phase }) })
    .where('id', '=', id)
    .execute();
}

/**
 * Says that a job's owner is alive; returns what a person asked of it meanwhile, `lost` when the job is no
 * longer this owner's: deleted, or taken over after a long silence.
 */
export async function beatJob(
  store: Store,
  id: number,
  owner: string,
): Promise<'pause' | 'cancel' | 'lost' | undefined> {
  const row = await store
    .updateTable('jobs')
    .set({ beat_at: Date.now() })
    .where('id', '=', id)
    .where('owner', '=', owner)
    .returning('wanted')
    .executeTakeFirst();
  return row ? (row.wanted ?? undefined) : 'lost';
}

export async function saveJobResult(store: Store, id: number, result: unknown): Promise<void> {
  await store
    .updateTable('jobs')
    .set({ result: JSON.stringify(result) })
    .where('id', '=', id)
    .execute();
}

/** What a job brought, as given to saveJobResult. */
export async function jobResult<T>(store: Store, id: number): Promise<T | undefined> {
  const row = await store.selectFrom('jobs').select('result').where('id', '=', id).executeTakeFirst();
  return row?.result ? (JSON.parse(row.result) as T) : undefined;
}

/** The job that made a sweep, or is making it. */
export async function jobOfSweep(store: Store, sweepId: number): Promise<JobRow | undefined> {
  const row = await store
    .selectFrom('jobs')
    .select('id')
    .where('sweep_id', '=', sweepId)
    .where('kind', '=', 'sweep')
    .executeTakeFirst();
  return row && findJob(store, row.id);
}

/** Forgets a job that has ended; what it brought stays. */
export async function forgetJob(store: Store, id: number): Promise<boolean> {
  const result = await store
    .deleteFrom('jobs')
    .where('id', '=', id)
    .where('state', 'in', ['done', 'failed', 'cancelled'])
    .executeTakeFirst();
  return result.numDeletedRows > 0n;
}

export async function setJobSweep(store: Store, id: number, siteId: number, sweepId: number): Promise<void> {
  await store.updateTable('jobs').set({ site_id: siteId, sweep_id: sweepId }).where('id', '=', id).execute();
}

export async function endJob(
  store: Store,
  id: number,
  state: Extract<JobState, 'paused' | 'done' | 'failed' | 'cancelled'>,
  error?: JobError,
): Promise<void> {
  await store
    .updateTable('jobs')
    .set({
      state,
      owner: null,
      wanted: null,
      error: error ? JSON.stringify(error) : null,
      ended_at: state === 'paused' ? null : new Date().toISOString(),
    })
    .where('id', '=', id)
    .execute();
}

/**
 * Asks a job to stop. A running one stops when it next looks; a queued one at once, but one that has results
 * already may be run once more, to be finished with what it has. Returns false when there is nothing to stop.
 */
export async function askJob(store: Store, id: number, wanted: 'pause' | 'cancel'): Promise<boolean> {
  const job = await findJob(store, id);
  if (!job) return false;
  const stops = job.state === 'queued' || job.state === 'running' || (job.state === 'paused' && wanted === 'cancel');
  if (!stops) return false;
  if (
    job.state !== 'running' &&
    !(wanted === 'cancel' && jobType(job.kind).finishesWhenCancelled && job.sweepId !== null)
  ) {
    await endJob(store, id, wanted === 'pause' ? 'paused' : 'cancelled');
    return true;
  }
  await store
    .updateTable('jobs')
    .set({ wanted, ...(job.state === 'paused' ? { state: 'queued' as const } : {}) })
    .where('id', '=', id)
    .execute();
  return true;
}

/** Puts a job that stopped into the queue again. */
export async function requeueJob(store: Store, id: number, from: readonly JobState[]): Promise<boolean> {
  const result = await store
    .updateTable('jobs')
    .set({ state: 'queued', wanted: null, error: null, ended_at: null })
    .where('id', '=', id)
    .where('state', 'in', [...from])
    .executeTakeFirst();
  return result.numUpdatedRows > 0n;
}

/** The last dry runs and moves of a site, the latest first. */
export async function moveJobs(
  store: Store,
  siteId: number,
): Promise<{ id: number; title: string; endedAt: string | null }[]> {
  return store
    .selectFrom('jobs')
    .select(['id', 'title', 'ended_at as endedAt'])
    .where('site_id', '=', siteId)
    .where('kind', '=', 'move')
    .where('state', '=', 'done')
    .orderBy('id', 'desc')
    .limit(20)
    .execute();
}

/** Sweeps, recordings, probes and visits of a site that were done in a month, YYYY-MM. */
export async function countRuns(store: Store, siteId: number, month: string): Promise<number> {
  const row = await store
    .selectFrom('jobs')
    .select((e) => e.fn.countAll<number>().as('n'))
    .where('site_id', '=', siteId)
    .where('state', '=', 'done')
    .where('kind', 'in', ['sweep', 'record', 'probe', 'changes'])
    .where('ended_at', 'like', `${month}-%`)
    .executeTakeFirstOrThrow();
  return row.n;
}
