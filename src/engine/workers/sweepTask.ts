import type { Device } from '../../core/capture/capture';
import { parseVisitor } from '../../core/load/visitors';
import { loadPictures } from '../services/loadPictures';
import { fieldForecast, fitVisitors } from '../services/siteField';
import { sweepFigures } from '../services/sweepFigures';
import { makePageTimes } from '../services/pageTimes';
import { sweepFiles } from '../services/sweepFiles';
import { makeForecast, makeGains } from '../services/sweepForecasts';
import { openStore } from '../store/store';

/** What is to be worked out of a whole sweep. A visitor is an id or a spec. */
export type SweepWork =
  | { readonly make: 'forecast'; readonly visitor: string }
  | { readonly make: 'gains'; readonly visitor: string }
  | { readonly make: 'figures'; readonly visitor: string }
  | { readonly make: 'times'; readonly visitor: string }
  | {
      readonly make: 'field';
      readonly site: { readonly id: number; readonly name: string };
      readonly device: Device;
      /** Groups whose effect on the p75 is forecast; without them visitors are fitted. */
      readonly groups?: readonly string[];
    }
  | { readonly make: 'pictures'; readonly visitor: string }
  | { readonly make: 'files'; readonly device: Device };

/** Work for a thread of its own, with a connection of its own to the database. */
export interface SweepTask {
  readonly data: string;
  readonly sweepId: number;
  readonly work: SweepWork;
}

/** Works it out and keeps it in the database; undefined for a sweep that is not there. */
export async function runTask({ data, sweepId, work }: SweepTask): Promise<unknown> {
  const store = await openStore(data);
  try {
    switch (work.make) {
      case 'forecast':
        return await makeForecast(store, sweepId, parseVisitor(work.visitor));
      case 'gains':
        return await makeGains(store, sweepId, parseVisitor(work.visitor));
      case 'figures':
        return await sweepFigures(store, sweepId, parseVisitor(work.visitor));
      case 'times':
        return await makePageTimes(store, sweepId, parseVisitor(work.visitor));
      case 'field':
        return work.groups
          ? await fieldForecast(store, work.site, sweepId, work.device, work.groups)
          : await fitVisitors(store, work.site, sweepId, work.device);
      case 'pictures':
        return await loadPictures(store, sweepId, parseVisitor(work.visitor));
      case 'files':
        return await sweepFiles(store, sweepId, work.device);
    }
  } finally {
    await store.destroy();
  }
}
