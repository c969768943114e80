import { deviceOf, VISITORS } from '../../core/load/visitors';
import type { Store } from '../store/store';
import { loadPictures } from './loadPictures';
import { sweepSummary } from './summariseSites';
import { sweepFigures } from './sweepFigures';
import { sweepFiles } from './sweepFiles';
import { makeForecast, sweepGroups } from './sweepForecasts';

/** Makes and keeps what the first look at a sweep asks for: its groups of fixes, and figures for the built-in visitors. */
export async function keepForecasts(store: Store, sweepId: number): Promise<void> {
  for (const visitor of VISITORS) {
    await makeForecast(store, sweepId, visitor);
    await sweepGroups(store, sweepId, deviceOf(visitor));
    await loadPictures(store, sweepId, visitor);
    await sweepFigures(store, sweepId, visitor);
    await sweepFiles(store, sweepId, deviceOf(visitor));
    await sweepSummary(store, sweepId, visitor);
  }
}
