// The thread's entry: lets TypeScript be loaded, then does one piece of work after the other.
import { register } from 'tsx/esm/api';

register();

/** @param {import('./sweepTask').SweepTask} task */
export async function runTask(task) {
  const thread = await import('./sweepTask.ts');
  return thread.runTask(task);
}
