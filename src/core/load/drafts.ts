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
