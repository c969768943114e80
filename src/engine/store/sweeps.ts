import { shownSettings, type SweepSettings } from '../../core/site/settings';
import type { Store } from './store';

/** A sweep as listed. */
export interface SweepRow {
  readonly id: number;
  readonly siteId: number;
  readonly day: string;
  /** Null for a sweep made of imported files. */
  readonly startedAt: string | null;
  readonly endedAt: string | null;
  readonly captures: number;
  /** Addresses known to it; 0 for one made of imported files. */
  readonly addresses: number;
}

const columns = [
  'sweeps.id',
  'sweeps.site_id as siteId',
  'sweeps.day',
  'sweeps.started_at as startedAt',
  'sweeps.ended_at as endedAt',
] as const;

/** Sweeps of a site, the latest first. */
export async function listSweeps(store: Store, siteId: number): Promise<SweepRow[]> {
  return store
    .selectFrom('sweeps')
    .select((e) => [
      ...columns,
      e
        .selectFrom('captures')
        .whereRef('captures.sweep_id', '=', 'sweeps.id')
        .select((c) => c.fn.countAll<number>().as('n'))
        .$asScalar()
        .as('captures'),
      e
        .selectFrom('pages')
        .whereRef('pages.sweep_id', '=', 'sweeps.id')
        .select((c) => c.fn.countAll<number>().as('n'))
        .$asScalar()
        .as('addresses'),
    ])
    .where('sweeps.site_id', '=', siteId)
    .orderBy('sweeps.day', 'desc')
    .orderBy('sweeps.id', 'desc')
    .$narrowType<{ captures: number; addresses: number }>()
    .execute();
}

export async function findSweep(
  store: Store,
  id: number,
): Promise<
  | {
      id: number;
      siteId: number;
      day: string;
      startedAt: string | null;
      endedAt: string | null;
      settings?: SweepSettings;
    }
  | undefined
> {
  const row = await store
    .selectFrom('sweeps')
    .select([...columns, 'sweeps.settings'])
    .where('sweeps.id', '=', id)
    .executeTakeFirst();
  return row && { ...row, settings: row.settings ? (JSON.parse(row.settings) as SweepSettings) : undefined };
}

/** Starts a sweep of today; its settings are kept without secrets. */
export async function addSweep(store: Store, siteId: number, settings: SweepSettings): Promise<number> {
  const now = new Date().toISOString();
  const row = await store
    .insertInto('sweeps')
    .values({
      site_id: siteId,
      day: now.slice(0, 10),
      started_at: now,
      settings: JSON.stringify(shownSettings(settings)),
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  return row.id;
}

/** Adds a sweep that ran before, elsewhere. */
export async function addPastSweep(
  store: Store,
  siteId: number,
  settings: SweepSettings,
  at: { readonly startedAt: string; readonly endedAt: string },
): Promise<number> {
  const row = await store
    .insertInto('sweeps')
    .values({
      site_id: siteId,
      day: at.startedAt.slice(0, 10),
      started_at: at.startedAt,
      ended_at: at.endedAt,
      settings: JSON.stringify(shownSettings(settings)),
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  return row.id;
}

export async function endSweep(store: Store, id: number): Promise<void> {
  await store.updateTable('sweeps').set({ ended_at: new Date().toISOString() }).where('id', '=', id).execute();
  // Whole addresses are needed no longer.
  await store
    .updateTable('pages')
    .set({ sealed: null })
    .where('sweep_id', '=', id)
    .where('sealed', 'is not', null)
    .execute();
}

/** The sweep that captures of a day belong to: the latest of that day, made when there is none. */
export async function sweepOfDay(store: Store, siteId: number, day: string): Promise<number> {
  const known = await store
    .selectFrom('sweeps')
    .select('id')
    .where('site_id', '=', siteId)
    .where('day', '=', day)
    .orderBy('id', 'desc')
    .executeTakeFirst();
  if (known) return known.id;
  const row = await store
    .insertInto('sweeps')
    .values({ site_id: siteId, day })
    .returning('id')
    .executeTakeFirstOrThrow();
  return row.id;
}
