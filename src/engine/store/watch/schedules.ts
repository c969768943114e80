import type { Schedule } from '../../../core/watch/schedule';
import type { JobError } from '../jobs';
import type { Store } from '../store';

/** A schedule of a site with what it last did. */
export interface ScheduleRow extends Schedule {
  readonly id: number;
  readonly siteId: number;
  readonly createdAt: string;
  readonly lastStart: string | null;
  readonly lastJob: number | null;
  readonly lastError?: JobError;
}

const columns = [
  'id',
  'site_id as siteId',
  'what',
  'cron',
  'zone',
  'quiet',
  'on',
  'created_at as createdAt',
  'last_start as lastStart',
  'last_job as lastJob',
  'last_error as lastError',
] as const;

/** Schedules of a site, or of all. */
export async function listSchedules(store: Store, siteId?: number): Promise<ScheduleRow[]> {
  const rows = await store
    .selectFrom('schedules')
    .select(columns)
    .$if(siteId !== undefined, (q) => q.where('site_id', '=', siteId as number))
    .orderBy('id')
    .execute();
  return rows.map(({ quiet, on, lastError, what, ...row }) => ({
    ...row,
    what: what as Schedule['what'],
    on: on === 1,
    quiet: quiet ? (JSON.parse(quiet) as Schedule['quiet']) : undefined,
    lastError: lastError ? (JSON.parse(lastError) as JobError) : undefined,
  }));
}

const packed = ({ what, cron, zone, quiet, on }: Schedule) => ({
  what,
  cron,
  zone,
  quiet: quiet ? JSON.stringify(quiet) : null,
  on: on ? 1 : 0,
});

export async function addSchedule(store: Store, siteId: number, schedule: Schedule, now: Date): Promise<number> {
  const { id } = await store
    .insertInto('schedules')
    .values({ site_id: siteId, ...packed(schedule), created_at: now.toISOString() })
    .returning('id')
    .executeTakeFirstOrThrow();
  return id;
}

/** Changes a schedule; what was missed before counts no longer. False when there is none. */
export async function changeSchedule(
  store: Store,
  siteId: number,
  id: number,
  schedule: Schedule,
  now: Date,
): Promise<boolean> {
  const result = await store
    .updateTable('schedules')
    .set({ ...packed(schedule), created_at: now.toISOString() })
    .where('site_id', '=', siteId)
    .where('id', '=', id)
    .executeTakeFirst();
  return result.numUpdatedRows > 0n;
}

export async function removeSchedule(store: Store, siteId: number, id: number): Promise<boolean> {
  const result = await store
    .deleteFrom('schedules')
    .where('site_id', '=', siteId)
    .where('id', '=', id)
    .executeTakeFirst();
  return result.numDeletedRows > 0n;
}

/** Takes a start for this process; false when another process took it meanwhile. */
export async function claimStart(store: Store, schedule: ScheduleRow, now: Date): Promise<boolean> {
  const result = await store
    .updateTable('schedules')
    .set({ last_start: now.toISOString() })
    .where('id', '=', schedule.id)
    .where('last_start', 'is', schedule.lastStart)
    .executeTakeFirst();
  return result.numUpdatedRows > 0n;
}

/** Notes what a start led to. */
export async function noteStart(store: Store, id: number, made: { job: number } | { error: JobError }): Promise<void> {
  await store
    .updateTable('schedules')
    .set('job' in made ? { last_job: made.job, last_error: null } : { last_error: JSON.stringify(made.error) })
    .where('id', '=', id)
    .execute();
}
