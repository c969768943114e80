// The thread's entry: lets TypeScript be loaded, then makes one report after the other.
import { register } from 'tsx/esm/api';

register();

/** @param {import('./reportTask').ReportTask} task */
export default async function run(task) {
  const { runTask } = await import('./reportTask.ts');
  return runTask(task);
}
