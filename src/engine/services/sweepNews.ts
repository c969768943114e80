import { createHash } from 'node:crypto';
import { newsBetween, type News, type SweepCause } from '../../core/site/news';
import type { Concern, Harm } from '../../core/checks/concern';
import { deviceIn, listCaptures } from '../store/captures';
import { codeStamp } from '../codeStamp';
import { findingsWhere } from '../store/findings';
import { keepOnce, revisionOf } from '../store/kept';
import type { Store } from '../store/store';
import { listSweeps, type SweepRow } from '../store/sweeps';

/** News of a sweep, and which one it was compared with; without an older one there is none. */
export interface SweepNews {
  readonly against?: { readonly id: number; readonly day: string };
  readonly news?: News;
}

type Sweep = { readonly id: number; readonly siteId: number };
type Device = 'phone' | 'desktop';

/**
 * What is new, gone or came back in a sweep for one device; worked out once.
 * @param against the sweep to compare with; the one before it if not stated
 */
export async function sweepNews(store: Store, sweep: Sweep, device: Device, against?: number): Promise<SweepNews> {
  const { other, older } = await othersOf(store, sweep, against);
  if (!other) return {};
  const name = `news ${device} ${await statesOf(store, [other, ...older])} ${codeStamp()}`;
  const news = await keepOnce(store, sweep.id, name, async () => {
    const now = await lookedAt(store, sweep.id, device);
    const before = await lookedAt(store, other.id, device);
    const earlier = new Set<string>();
    for (const s of older) for (const c of (await lookedAt(store, s.id, device)).causes) earlier.add(c.cause);
    return newsBetween(now.causes, before.causes, earlier, now.pages, before.pages);
  });
  return { against: { id: other.id, day: other.day }, news };
}

/** Causes that a sweep shares with the one it is compared with. */
export async function stayedCauses(
  store: Store,
  sweep: Sweep,
  device: Device,
  against?: number,
): Promise<readonly SweepCause[]> {
  const { other } = await othersOf(store, sweep, against);
  if (!other) return [];
  const were = new Set((await lookedAt(store, other.id, device)).causes.map((c) => c.cause));
  return (await lookedAt(store, sweep.id, device)).causes.filter((c) => were.has(c.cause));
}

/** The sweep to compare with, and those before that. */
async function othersOf(
  store: Store,
  sweep: Sweep,
  against?: number,
): Promise<{ other?: SweepRow; older: readonly SweepRow[] }> {
  const all = await listSweeps(store, sweep.siteId);
  const at = all.findIndex((s) => s.id === sweep.id);
  const recorded = (s: SweepRow) => s.captures > 0 && s.id !== sweep.id;
  const other = against === undefined ? all.slice(at + 1).find(recorded) : all.find((s) => s.id === against);
  if (!other || other.id === sweep.id) return { older: [] };
  return { other, older: all.slice(all.indexOf(other) + 1).filter(recorded) };
}

/** A short text that changes whenever what the figures of one of these sweeps rest on does. */
export async function statesOf(store: Store, sweeps: readonly Pick<SweepRow, 'id'>[]): Promise<string> {
  const states: string[] = [];
  for (const { id } of sweeps) states.push(`${id}.${await revisionOf(store, id)}`);
  return createHash('sha256').update(states.join()).digest('base64url').slice(0, 12);
}

async function lookedAt(store: Store, sweepId: number, wanted: Device) {
  const device = await deviceIn(store, sweepId, wanted);
  const captures = await listCaptures(store, sweepId, device);
  const make = () => causesOf(store, sweepId, device);
  const causes = (await keepOnce(store, sweepId, `causes ${device} ${codeStamp()}`, make)) ?? [];
  return { causes, pages: new Set(captures.map((c) => c.page)) };
}

/** Causes that are not muted, each with its worst finding's title. */
async function causesOf(store: Store, sweepId: number, device: Device): Promise<SweepCause[]> {
  const rows = await findingsWhere(store, { sweepId, device })
    .select([
      'findings.cause',
      'findings.check',
      'findings.concern',
      'findings.harm',
      'findings.title',
      'findings.page',
    ])
    .orderBy('findings.id')
    .execute();
  const causes = new Map<string, { first: (typeof rows)[number]; pages: Set<string> }>();
  for (const row of rows) {
    const known = causes.get(row.cause);
    if (known) known.pages.add(row.page);
    else causes.set(row.cause, { first: row, pages: new Set([row.page]) });
  }
  return [...causes].map(([cause, { first, pages }]) => ({
    cause,
    check: first.check,
    concern: first.concern as Concern,
    harm: first.harm as Harm,
    title: first.title,
    pages: [...pages],
  }));
}
