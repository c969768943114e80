// The thread's entry: lets TypeScript be loaded, then makes one forecast after the other.
import { register } from 'tsx/esm/api';

register();

/** @param {import('./forecastTask').ForecastTask} task */
export default async function run(task) {
  const { runTask } = await import('./forecastTask.ts');
  return runTask(task);
}
