// The thread's entry: lets TypeScript be loaded, then makes one report after the other.
import { register } from 'tsx/esm/api';

register();

/** @param {import('./reportTask').ReportTask} task */
export async function runTask(task) {
  const thread = await import('./reportTask.ts');
  return thread.runTask(task);
}
