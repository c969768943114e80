import { parseVisitor } from '../../core/load/visitors';
import type { SweepForecast } from '../../core/plan/sweepForecast';
import { makeForecast } from '../services/sweepForecasts';
import { openStore } from '../store/store';

/** A forecast for a thread of its own, with a connection of its own to the database. */
export interface ForecastTask {
  readonly data: string;
  readonly sweepId: number;
  /** Id or spec. */
  readonly visitor: string;
}

/** Makes the forecast and keeps it in the database. */
export async function runTask(task: ForecastTask): Promise<SweepForecast | undefined> {
  const store = await openStore(task.data);
  try {
    return await makeForecast(store, task.sweepId, parseVisitor(task.visitor));
  } finally {
    await store.destroy();
  }
}
