import type { MoveFacts } from '../../core/move/steps';
import { coverageOf } from '../store/coverage';
import { listLists } from '../store/lists';
import { lastProbe, type SiteProbe } from '../store/probes';
import type { Store } from '../store/store';

/** https addresses whose http form was seen to respond without a redirect. */
export function httpToo(probe: SiteProbe | undefined): string[] {
  return (probe?.entrances ?? []).flatMap((e) =>
    e.from.startsWith('http:') && (e.verdict === 'duplicate' || e.verdict === 'http only') && e.hops.length === 1
      ? [e.from.replace(/^http:/, 'https:')]
      : [],
  );
}

/** What can be seen of a site that moves to https. */
export async function moveFacts(store: Store, siteId: number, sweepId: number | null): Promise<MoveFacts> {
  const probe = await lastProbe(store, siteId);
  const lists = (await listLists(store, siteId)).length;
  const { dryRuns } = await store
    .selectFrom('jobs')
    .where('site_id', '=', siteId)
    .where('kind', '=', 'move')
    .where('state', '=', 'done')
    .select((e) => e.fn.countAll<number>().as('dryRuns'))
    .executeTakeFirstOrThrow();
  if (sweepId === null) return { probe, lists, dryRuns };
  const { counts } = await coverageOf(store, sweepId, 'folder', httpToo(probe));
  const { own, loads } = await store
    .selectFrom('mentions')
    .where('sweep_id', '=', sweepId)
    .select((e) => [e.fn.sum<number | null>('own').as('own'), e.fn.count<number>('kind').as('loads')])
    .executeTakeFirstOrThrow();
  return { probe, lists, dryRuns, coverage: counts, ownMentions: own ?? 0, insecureLoads: loads };
}
