import type { Device } from '../../core/capture/capture';
import { CONCERNS } from '../../core/checks/concern';
import type { BriefCauses } from '../../core/plan/briefCauses';
import { codeStamp } from '../codeStamp';
import { listCauses, listFacets } from '../store/causes';
import { keepOnce } from '../store/kept';
import { clicksList } from '../store/lists';
import type { Store } from '../store/store';
import { findSweep } from '../store/sweeps';

/** Urgent causes that the Brief lists. */
const URGENT = 12;

/** What the Brief says of a sweep's causes; worked out once. Undefined for a sweep that is not there. */
export async function briefCauses(store: Store, sweepId: number, device: Device): Promise<BriefCauses | undefined> {
  const sweep = await findSweep(store, sweepId);
  if (!sweep) return undefined;
  // What is worst depends on how many people visit a page, too.
  const clicks = (await clicksList(store, sweep.siteId))?.id ?? 0;
  return keepOnce(store, sweepId, `brief ${device} ${clicks} ${codeStamp()}`, async () => {
    const urgent = await listCauses(store, { sweepId, device, harm: 'broken,exposed', limit: URGENT });
    const concerns: BriefCauses['concerns'][number][] = [];
    for (const { id: concern } of CONCERNS) {
      const { causes } = await listCauses(store, { sweepId, device, concern, limit: 1 });
      const [worst] = causes;
      if (!worst) continue;
      const { harms } = await listFacets(store, { sweepId, device, concern });
      concerns.push({
        concern,
        counts: Object.fromEntries(harms.map((h) => [h.value, h.causes])),
        worst: worst.first.title,
      });
    }
    return {
      urgent: urgent.causes.map(({ cause, concern, harm, pages, targets, first }) => ({
        cause,
        concern: concern as (typeof CONCERNS)[number]['id'],
        harm,
        pages,
        targets,
        title: first.title,
      })),
      concerns,
    };
  });
}
