import { VERSION } from '../../../../core/version';
import { packParts, unpackParts } from '../../../../engine/fleet/packParts';
import type { TaskWork } from '../../../../engine/fleet/remoteTask';
import { handInResult, readTaskInput } from '../../../../engine/fleet/taskFiles';
import { remoteTaskFailed, remoteTaskToDo } from '../../../../engine/store/fleet/remoteTasks';
import { workRoutes } from '../_recorder';

/** Probes and proofs: what they take and what they bring, as packParts packs it. */
export const { GET, PUT, POST } = workRoutes({
  name: 'task',
  tooLarge: 'Prove fewer pages at a time.',
  async give(db, id) {
    const task = await remoteTaskToDo(db, id);
    const input = task && (await readTaskInput(db, task.id));
    if (!input) return undefined;
    const { kind, title } = task;
    const work = { kind, title, version: VERSION, input: unpackParts(input, title) } as TaskWork;
    return new Response(new Uint8Array(packParts(work)), {
      headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' },
    });
  },
  isWanted: async (db, id) => (await remoteTaskToDo(db, id)) !== undefined,
  keep: handInResult,
  fail: remoteTaskFailed,
});
