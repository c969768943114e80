// The thread's entry: lets TypeScript be loaded, then runs one job after the other.
import { register } from 'tsx/esm/api';

register();

/** @param {import('./jobTask').JobTask} task */
export default async function run(task) {
  const { runTask } = await import('./jobTask.ts');
  await runTask(task);
}
