import { useEffect, useMemo } from 'react';
import { create } from 'zustand';
import { DEFAULT_VISITOR, VISITORS, type Visitor, parseVisitor, visitorSpec } from '../../core/load/visitors';
import type { OwnVisitor } from '../../engine/store/ownVisitors';
import { ask } from './api';
import { useLocation } from './router';

interface Kept {
  readonly own?: readonly OwnVisitor[];
  load(): void;
  /** Saves a new one, or one over. @throws RequestError */
  save(value: { readonly id?: number; readonly name: string; readonly spec: string }): Promise<OwnVisitor>;
  remove(id: number): Promise<void>;
}

/** Visitors that users have made up, read once. */
export const useOwnVisitors = create<Kept>((set, get) => {
  const read = () => ask<OwnVisitor[]>('/api/visitors').then((own) => set({ own }));
  return {
    load: () => {
      // Without them the built-in ones do; whoever makes one up is told what is wrong.
      if (!get().own) void read().catch(() => undefined);
    },
    save: async ({ id, name, spec }) => {
      const saved = await ask<OwnVisitor>(id === undefined ? '/api/visitors' : `/api/visitors/${id}`, {
        method: id === undefined ? 'POST' : 'PUT',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ name, spec }),
      });
      await read();
      return saved;
    },
    remove: async (id) => {
      await ask(`/api/visitors/${id}`, { method: 'DELETE' });
      await read();
    },
  };
});

/** An own visitor as one that figures can be given for. */
export function asVisitor(own: OwnVisitor): Visitor {
  const visitor = parseVisitor(own.spec);
  return { ...visitor, name: own.name, who: `A visitor (${own.name})` };
}

/** The built-in visitors, then the own ones. */
export function useVisitors(): readonly Visitor[] {
  const { own, load } = useOwnVisitors();
  useEffect(load, [load]);
  return useMemo(() => [...VISITORS, ...(own ?? []).map(asVisitor)], [own]);
}

/** The visitor named in the address, or the first. */
export function useVisitor(): Visitor {
  const { query } = useLocation();
  const all = useVisitors();
  const name = query.get('visitor') ?? '';
  return useMemo(() => {
    try {
      const visitor = name ? parseVisitor(name) : DEFAULT_VISITOR;
      const known = all.find((v) => visitorSpec(v) === visitor.id);
      return known ?? { ...visitor, name: describeVisitor(visitor), who: 'A visitor' };
    } catch {
      return VISITORS[0] as Visitor;
    }
  }, [name, all]);
}

/** Device and connection in few words: "400 x 860, 150 ms, 2 Mbit/s". */
export function describeVisitor(v: Visitor): string {
  return `${v.screenWidth} x ${v.screenHeight}, ${v.rttMs} ms, ${v.downKbps / 1000} Mbit/s`;
}

/** The visitor after this one, round and round. */
export function nextVisitor(all: readonly Visitor[], id: string): string {
  const at = all.findIndex((v) => v.id === id);
  return (all[(at + 1) % all.length] as Visitor).id;
}
