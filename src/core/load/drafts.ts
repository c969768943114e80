import type { Load } from '../capture/capture';
import type { ScriptNode } from './graph';

/** Redirect hops: which load follows and which one came before. */
export interface Hops {
  readonly next: ReadonlyMap<number, number>;
  readonly previous: ReadonlyMap<number, number>;
}

/** A script of the graph before it has its number, with what discovery needs to know. */
export type ScriptDraft = Omit<ScriptNode, 'id'> & {
  readonly url?: string;
  readonly line?: number;
  readonly endMs?: number;
};

/**
 * The script that a recording names as what asked for a load: a file by its address, else the inline script at or before
 * the line; -1 for none.
 */
export function scriptNamed(scripts: readonly ScriptDraft[], by: Load['initiator']): number {
  if (by?.type !== 'script' || !by.url) return -1;
  const external = scripts.findIndex((s) => s.url === by.url && s.fetch >= 0);
  if (external >= 0) return external;
  return scripts.findLastIndex((s) => s.fetch < 0 && (by.line === undefined || (s.line ?? 0) <= by.line));
}
