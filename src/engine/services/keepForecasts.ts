import { CONCERNS } from '../../core/checks/concern';
import { deviceOf, VISITORS } from '../../core/load/visitors';
import type { Store } from '../store/store';
import { deviceIn } from '../store/captures';
import { briefCauses } from './briefCauses';
import { LISTED_CAUSES, listedCauses } from './listedCauses';
import { loadPictures } from './loadPictures';
import { sweepSummary } from './summariseSites';
import { findSweep } from '../store/sweeps';
import { sweepNews } from './sweepNews';
import { sweepFigures } from './sweepFigures';
import { compareSweeps } from './compareSweeps';
import { groupedFiles, listFiles } from './filesLists';
import { timesAreKept } from './pageTimes';
import { filesAreKept, sweepFiles } from './sweepFiles';
import { makeForecast, sweepGroups } from './sweepForecasts';

/** Makes and keeps what the first look at a sweep asks for: its groups of fixes, and figures for the built-in visitors. */
export async function keepForecasts(store: Store, sweepId: number): Promise<void> {
  for (const visitor of VISITORS) {
    const device = await deviceIn(store, sweepId, deviceOf(visitor));
    await makeForecast(store, sweepId, visitor);
    await sweepGroups(store, sweepId, device);
    await loadPictures(store, sweepId, visitor);
    await sweepFigures(store, sweepId, visitor);
    await sweepFiles(store, sweepId, device);
    await listFiles(store, sweepId, device);
    await groupedFiles(store, sweepId, device, {}, 'type');
    await sweepSummary(store, sweepId, visitor);
    await briefCauses(store, sweepId, device);
    for (const { id: concern } of CONCERNS)
      await listedCauses(store, { sweepId, device, concern, limit: LISTED_CAUSES });
    const sweep = await findSweep(store, sweepId);
    const against = sweep && (await sweepNews(store, sweep, device)).against?.id;
    // Where the older sweep has nothing kept any more, only who looks at both has it worked out again.
    if (
      sweep &&
      against &&
      (await timesAreKept(store, against, visitor)) &&
      (await filesAreKept(store, against, device))
    )
      await compareSweeps(store, sweep, visitor);
  }
}
