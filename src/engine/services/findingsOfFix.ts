import type { Fix } from '../../core/fixes/fix';
import { simulate } from '../../core/load/simulate';
import type { Link, LoadGraph } from '../../core/load/graph';
import { applyFixes } from '../../core/fixes/applyFixes';
import { groupKey } from '../../core/plan/groupKey';
import { auditsOf, listCaptures } from '../store/captures';
import type { Store } from '../store/store';
import { findingsOfGroups } from './sweepForecasts';

/** Ids of the findings that a group of fixes removes, by its key in addresses; also of one that mutes take away. */
export async function findingsOfFix(
  store: Store,
  sweepId: number,
  device: 'phone' | 'desktop',
  key: string,
): Promise<string[]> {
  const offered = (await findingsOfGroups(store, sweepId, device)).find(([group]) => groupKey(group) === key);
  if (offered) return [...offered[1]];
  const found = new Set<string>();
  for await (const { audit } of auditsOf(store, await listCaptures(store, sweepId, device)))
    for (const fix of audit.fixes) if (groupKey(fix.group) === key) for (const id of fix.findings) found.add(id);
  return [...found];
}

/** The fixes of a finding with what the best of them changes. */
export interface FixEffect {
  readonly titles: readonly string[];
  /** Hero paint saved on its page by the best of them alone, in ms. */
  readonly savedMs: number;
}

/** For each finding of a sweep, its fixes and what they save for a visitor on that page. */
export async function effectsOfFixes(
  store: Store,
  sweepId: number,
  device: 'phone' | 'desktop',
  link: Link,
): Promise<ReadonlyMap<string, FixEffect>> {
  const out = new Map<string, FixEffect>();
  for await (const { audit } of auditsOf(store, await listCaptures(store, sweepId, device))) {
    const now = simulate(audit.graph, link).milestones.lcpMs;
    for (const fix of audit.fixes) {
      const savedMs = now - lcpWith(audit.graph, fix, link);
      for (const id of fix.findings) {
        const known = out.get(id);
        out.set(id, {
          titles: [...(known?.titles ?? []), fix.title],
          savedMs: Math.max(known?.savedMs ?? -Infinity, savedMs),
        });
      }
    }
  }
  return out;
}

function lcpWith(graph: LoadGraph, fix: Fix, link: Link): number {
  return simulate(applyFixes(graph, [fix]), link).milestones.lcpMs;
}
