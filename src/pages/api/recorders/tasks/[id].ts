import fs from 'node:fs/promises';
import { object, string } from 'yup';
import { VERSION } from '../../../../core/version';
import { packParts, unpackParts } from '../../../../engine/fleet/packParts';
import type { TaskWork } from '../../../../engine/fleet/remoteTask';
import { handInResult, readTaskInput } from '../../../../engine/fleet/taskFiles';
import { MAX_FILE_BYTES } from '../../../../engine/services/importHar';
import { store } from '../../../../engine/services/openedStore';
import { countForRecorder } from '../../../../engine/store/fleet/recorders';
import { remoteTaskFailed, remoteTaskToDo } from '../../../../engine/store/fleet/remoteTasks';
import { body, idOf, json, route, type ApiError } from '../../_answer';
import { takeUpload } from '../../_upload';
import { recorderOf } from '../_recorder';

const gone = (where: string) =>
  json(
    { error: { what: 'Nobody waits for this task any more.', where, next: 'Take the next one.' } } satisfies ApiError,
    410,
  );

/** A probe or a proof with all that it takes, as packParts packs it. 410 for what nobody waits for any more. */
export const GET = route(async (context) => {
  const db = await store();
  const task = await remoteTaskToDo(db, idOf(context));
  const input = task && (await readTaskInput(db, task.id));
  if (!input) return gone(context.url.pathname);
  const { kind, title } = task;
  const work = { kind, title, version: VERSION, input: unpackParts(input, title) } as TaskWork;
  return new Response(new Uint8Array(packParts(work)), {
    headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' },
  });
});

/** Takes in what a task brought, as packParts packs it. */
export const PUT = route(async (context) => {
  const { tokenId, name } = recorderOf(context);
  const db = await store();
  const id = idOf(context);
  if (!(await remoteTaskToDo(db, id))) return gone(context.url.pathname);
  const file = await takeUpload(context, `task ${id}`, {
    bytes: MAX_FILE_BYTES,
    words: '512 MB',
    next: 'Prove fewer pages at a time.',
  });
  // While it came in another recorder may have been first, or the job have been cancelled.
  if (!(await remoteTaskToDo(db, id))) {
    await fs.rm(file, { force: true });
    return gone(context.url.pathname);
  }
  await handInResult(db, id, file);
  await countForRecorder(db, tokenId, name, 'done');
  return new Response(null, { status: 204 });
});

/** Notes that a task cannot be done, and why. */
export const POST = route(async (context) => {
  const { tokenId, name } = recorderOf(context);
  const { fault } = await body(context, object({ fault: string().max(2000).required('Say what went wrong.') }));
  const db = await store();
  const id = idOf(context);
  if (!(await remoteTaskToDo(db, id))) return gone(context.url.pathname);
  await remoteTaskFailed(db, id, fault);
  await countForRecorder(db, tokenId, name, 'failed');
  return new Response(null, { status: 204 });
});
