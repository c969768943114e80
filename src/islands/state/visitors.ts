import { useMemo } from 'react';
import { DEFAULT_VISITOR, VISITORS, type Visitor, parseVisitor, visitorSpec } from '../../core/load/visitors';
import type { OwnVisitor } from '../../engine/store/ownVisitors';
import { ask, queries, useResource } from './api';
import { useLocation } from './location';

/** Where the visitors that users have made up are listed. */
export const OWN_VISITORS = '/api/visitors';

/** Visitors that users have made up; without them the built-in ones do. */
export function useOwnVisitors(): readonly OwnVisitor[] | undefined {
  return useResource<OwnVisitor[]>(OWN_VISITORS).value;
}

/** Saves a new visitor, or one over. @throws RequestError */
export async function saveVisitor(value: {
  readonly id?: number;
  readonly name: string;
  readonly spec: string;
}): Promise<OwnVisitor> {
  const { id, name, spec } = value;
  const saved = await ask<OwnVisitor>(id === undefined ? OWN_VISITORS : `${OWN_VISITORS}/${id}`, {
    method: id === undefined ? 'POST' : 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name, spec }),
  });
  await queries.invalidateQueries({ queryKey: [OWN_VISITORS] });
  return saved;
}

/** Deletes one. @throws RequestError */
export async function deleteVisitor(id: number): Promise<void> {
  await ask(`${OWN_VISITORS}/${id}`, { method: 'DELETE' });
  await queries.invalidateQueries({ queryKey: [OWN_VISITORS] });
}

/** An own visitor as one that figures can be given for. */
export function asVisitor(own: OwnVisitor): Visitor {
  const visitor = parseVisitor(own.spec);
  return { ...visitor, name: own.name, who: `A visitor (${own.name})` };
}

/** The built-in visitors, then the own ones. */
export function useVisitors(): readonly Visitor[] {
  const own = useOwnVisitors();
  return useMemo(() => [...VISITORS, ...(own ?? []).map(asVisitor)], [own]);
}

/** The visitor named in the address, or the first. */
export function useVisitor(): Visitor {
  const { query } = useLocation();
  const all = useVisitors();
  const name = query.get('visitor') ?? '';
  return useMemo(() => visitorNamed(name, all), [name, all]);
}

/** The visitor of a name, an id or a spec; the default one where there is none. */
export function visitorNamed(name: string, all: readonly Visitor[] = VISITORS): Visitor {
  try {
    const visitor = name ? parseVisitor(name) : DEFAULT_VISITOR;
    const known = all.find((v) => visitorSpec(v) === visitor.id);
    return known ?? { ...visitor, name: describeVisitor(visitor), who: 'A visitor' };
  } catch {
    return DEFAULT_VISITOR;
  }
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
