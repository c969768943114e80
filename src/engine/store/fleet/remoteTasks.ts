import type { RemoteTaskKind } from '../fleetSchema';
import type { Store } from '../store';
import { countAtHost } from './sentRecordings';

/** A probe or a proof that a recorder is to do. */
export interface RemoteTask {
  readonly id: number;
  readonly jobId: number;
  readonly kind: RemoteTaskKind;
  readonly title: string;
  readonly host: string | null;
  readonly fault: string | null;
}

const columns = ['id', 'job_id as jobId', 'kind', 'title', 'host', 'fault'] as const;

/** Notes a task; the one that a job has of the same kind and title already is the same task, to be sent anew. */
export async function addRemoteTask(store: Store, task: Omit<RemoteTask, 'id' | 'fault'>): Promise<RemoteTask> {
  const { jobId, ...values } = task;
  await store
    .insertInto('remote_tasks')
    .values({ job_id: jobId, ...values })
    .onConflict((c) => c.columns(['job_id', 'kind', 'title']).doUpdateSet({ fault: null, sent_at: null }))
    .execute();
  return store
    .selectFrom('remote_tasks')
    .select(columns)
    .where('job_id', '=', jobId)
    .where('kind', '=', task.kind)
    .where('title', '=', task.title)
    .executeTakeFirstOrThrow();
}

/** Notes that a task goes into the queue, unless as many as may be ask its host for something already. */
export async function sendRemoteTask(store: Store, task: RemoteTask, mostOfHost: number): Promise<boolean> {
  const result = await store
    .updateTable('remote_tasks')
    .set({ sent_at: Date.now() })
    .where('id', '=', task.id)
    .$if(task.host !== null, (q) => q.where(countAtHost(store, task.host ?? ''), '<', mostOfHost))
    .executeTakeFirst();
  return result.numUpdatedRows > 0n;
}

/** Why a task cannot be done, once a recorder has said so. */
export async function faultOfTask(store: Store, id: number): Promise<string | undefined> {
  const row = await store.selectFrom('remote_tasks').select('fault').where('id', '=', id).executeTakeFirst();
  return row?.fault ?? undefined;
}

export async function remoteTaskFailed(store: Store, id: number, fault: string): Promise<void> {
  await store.updateTable('remote_tasks').set({ fault }).where('id', '=', id).execute();
}

/** A task that a recorder asks for; undefined when nobody waits for it any more. */
export async function remoteTaskToDo(store: Store, id: number): Promise<RemoteTask | undefined> {
  const row = await store
    .selectFrom('remote_tasks')
    .innerJoin('jobs', 'jobs.id', 'remote_tasks.job_id')
    .select(['remote_tasks.id', 'job_id as jobId', 'remote_tasks.kind', 'remote_tasks.title', 'host', 'fault'])
    .where('remote_tasks.id', '=', id)
    .where('sent_at', 'is not', null)
    .where('fault', 'is', null)
    .where('jobs.state', 'in', ['running', 'queued'])
    .where('jobs.wanted', 'is', null)
    .executeTakeFirst();
  return row;
}

export async function removeRemoteTask(store: Store, id: number): Promise<void> {
  await store.deleteFrom('remote_tasks').where('id', '=', id).execute();
}

/** Numbers of all tasks. */
export async function listRemoteTasks(store: Store): Promise<number[]> {
  return (await store.selectFrom('remote_tasks').select('id').execute()).map((r) => r.id);
}
