// The thread's entry: lets TypeScript be loaded, then runs one job after the other.
import { register } from 'tsx/esm/api';

register();

/** @param {import('./jobTask').JobTask} task */
export async function runTask(task) {
  const thread = await import('./jobTask.ts');
  await thread.runTask(task);
}
