// The thread's entry: lets TypeScript be loaded, then makes one forecast after the other.
import { register } from 'tsx/esm/api';

register();

/** @param {import('./forecastTask').ForecastTask} task */
export async function runTask(task) {
  const thread = await import('./forecastTask.ts');
  return thread.runTask(task);
}
